// Two tabs changed the same exercise: the later one is told, and nothing is lost whichever way it goes.
import { useLocation } from "wouter";
import { api, ask } from "../api/client";
import type { Opened } from "../api/types";
import { forgetDraft, saveOnTop } from "../document/saving";
import { useExercise } from "../document/store";
import { Button } from "../ui/Button";

export function ClashNote() {
  const [, go] = useLocation();
  const saving = useExercise((state) => state.saving);
  if (saving.state !== "clash") return null;
  const { id, document, adopt } = useExercise.getState();

  const keepAsCopy = async () => {
    const title = `${document.title} (my changes)`.slice(0, 120);
    const copy = await ask<Opened>(
      api.POST("/api/exercises", { body: { document: { ...document, title } } }),
    );
    forgetDraft(id);
    go(`/exercises/${copy.id}`);
  };
  const takeTheirs = async () => {
    const path = { identity: id };
    adopt(await ask<Opened>(api.GET("/api/exercises/{identity}", { params: { path } })));
    forgetDraft(id);
  };
  return (
    <div role="alert" className="flex items-center gap-2 bg-doubt-wash px-4 py-2 text-sm">
      <p className="grow">{saving.sentence}</p>
      <Button onClick={() => void keepAsCopy()}>Keep mine as a copy</Button>
      <Button onClick={() => saveOnTop(saving.latest)}>Save mine on top</Button>
      <Button onClick={() => void takeTheirs()}>Take the other</Button>
    </div>
  );
}
