import { Route, Switch, useLocation } from "wouter";
import { ExercisePage } from "./exercise/ExercisePage";
import { useDroppedFiles } from "./exercise/importing";
import { Notebook } from "./notebook/Notebook";
import { Toasts } from "./ui/Toasts";

export function App() {
  const [, go] = useLocation();
  useDroppedFiles((id) => go(`/exercises/${id}`));
  return (
    <>
      <Switch>
        <Route path="/exercises/:id/:station?">
          {({ id, station }) => <ExercisePage key={id} id={Number(id)} station={station} />}
        </Route>
        <Route>
          <Notebook />
        </Route>
      </Switch>
      <Toasts />
    </>
  );
}
