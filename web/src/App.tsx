import { Route, Switch, useLocation } from "wouter";
import { ExercisePage } from "./exercise/ExercisePage";
import { useDroppedFiles } from "./exercise/importing";
import { Notebook } from "./notebook/Notebook";
import { usePerson } from "./ui/person";
import { Door } from "./ui/SignIn";
import { Toasts } from "./ui/Toasts";

export function App() {
  const [, go] = useLocation();
  const { isStranger } = usePerson();
  useDroppedFiles((id) => go(`/exercises/${id}`));
  if (isStranger) return <Door />;
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
