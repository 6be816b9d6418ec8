import { Route, Switch } from "wouter";
import { ExercisePage } from "./exercise/ExercisePage";
import { Notebook } from "./notebook/Notebook";
import { Toasts } from "./ui/Toasts";

export function App() {
  return (
    <>
      <Switch>
        <Route path="/exercises/:id">{({ id }) => <ExercisePage key={id} id={Number(id)} />}</Route>
        <Route>
          <Notebook />
        </Route>
      </Switch>
      <Toasts />
    </>
  );
}
