import { lazy, Suspense, useEffect } from "react";
import { Route, Switch, useLocation } from "wouter";
import { useDroppedFiles } from "./exercise/importing";
import { Notebook } from "./notebook/Notebook";
import { Button } from "./ui/Button";
import { usePerson } from "./ui/person";
import { LoginPage } from "./ui/SignIn";
import { Toasts } from "./ui/Toasts";

const SOON = 500; // ms until what the next press will need is fetched

// The notebook is there before what an exercise needs has come.
const exercisePage = () => import("./exercise/ExercisePage");
const ExercisePage = lazy(() =>
  exercisePage().then(
    (page) => ({ default: page.ExercisePage }),
    () => ({ default: NotLoaded }),
  ),
);

function NotLoaded() {
  return (
    <main className="flex h-full flex-col items-center justify-center gap-3 text-center">
      <h1 className="font-serif text-2xl">This page did not load</h1>
      <p className="text-soft">The server does not answer.</p>
      <Button onClick={() => window.location.reload()}>Try again</Button>
    </main>
  );
}

export function App() {
  const [, go] = useLocation();
  const { isStranger } = usePerson();
  useEffect(() => {
    const timer = setTimeout(() => exercisePage().catch(() => undefined), SOON);
    return () => clearTimeout(timer);
  }, []);
  useDroppedFiles((id) => go(`/exercises/${id}`));
  if (isStranger) return <LoginPage />;
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
