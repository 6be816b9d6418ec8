// Short messages at the foot of the page, with one thing to do about them.
import { Toast } from "radix-ui";
import { create } from "zustand";

interface Message {
  id: number;
  text: string;
  action?: { label: string; run: () => void };
}

export const useMessages = create<{ messages: Message[] }>()(() => ({ messages: [] }));
let count = 0;

export function say(text: string, action?: Message["action"]): void {
  count += 1;
  const message: Message = action ? { id: count, text, action } : { id: count, text };
  useMessages.setState(({ messages }) => ({ messages: [...messages, message].slice(-3) }));
}

function dismiss(id: number): void {
  useMessages.setState(({ messages }) => ({ messages: messages.filter((m) => m.id !== id) }));
}

export function Toasts() {
  const messages = useMessages((state) => state.messages);
  return (
    <Toast.Provider duration={10_000}>
      {messages.map(({ id, text, action }) => (
        <Toast.Root
          key={id}
          onOpenChange={(open) => !open && dismiss(id)}
          className="flex items-center gap-4 rounded-lg bg-ink px-4 py-2.5 text-sm text-paper shadow-card"
        >
          <Toast.Description>{text}</Toast.Description>
          {action && (
            <Toast.Action altText={action.label} asChild>
              <button
                type="button"
                onClick={action.run}
                className="rounded px-2 py-1 font-semibold underline underline-offset-4"
              >
                {action.label}
              </button>
            </Toast.Action>
          )}
        </Toast.Root>
      ))}
      <Toast.Viewport className="fixed bottom-5 left-1/2 z-50 flex -translate-x-1/2 flex-col gap-2 outline-none" />
    </Toast.Provider>
  );
}
