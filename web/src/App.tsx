import { lazy, Suspense, useEffect } from "react";
import { Route, Switch, useLocation } from "wouter";
import { useDroppedFiles } from "./exercise/importing";
import { Notebook } from "./notebook/Notebook";
import { usePerson } from "./ui/person";
import { Door } from "./ui/SignIn";
import { Toasts } from "./ui/Toasts";

const SOON = 500; // ms until what the next press will need is fetched

// The notebook is there before what an exercise needs has come.
const exercisePage = () => import("./exercise/ExercisePage");
const ExercisePage = lazy(() => exercisePage().then((page) => ({ default: page.ExercisePage })));

export function App() {
  const [, go] = useLocation();
  const { isStranger } = usePerson();
  useEffect(() => {
    const timer = setTimeout(() => void exercisePage(), SOON);
    return () => clearTimeout(timer);
  }, []);
  useDroppedFiles((id) => go(`/exercises/${id}`));
  if (isStranger) return <Door />;
  return (
    <>
      <Suspense fallback={<p className="p-8 text-soft">Opening …</p>}>
        <Switch>
          <Route path="/exercises/:id/:station?">
            {({ id, station }) => <ExercisePage key={id} id={Number(id)} station={station} />}
          </Route>
          <Route>
            <Notebook />
          </Route>
        </Switch>
      </Suspense>
      <Toasts />
    </>
  );
}
