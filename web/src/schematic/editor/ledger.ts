// Figures put into the ledger by one press, wherever they stand.
import { turnTo } from "../../document/address";
import { atRest } from "../../document/figures";
import { useExercise } from "../../document/store";
import { say } from "../../ui/Toasts";
import { freshId } from "../model/wires";

/** What a row has where nothing is said of it. */
export const PLAIN_ROW = { note: "", group: "", is_kept: false };

/** A quantity at rest, or what a line of working gives, that is to stand in the ledger from now on. */
export function intoLedger(quantity: string): void {
  const { document, edit } = useExercise.getState();
  const isThere = document.ledger.some((row) => row.name === quantity);
  if (!isThere)
    edit((draft) => {
      draft.ledger.push({
        id: freshId("t", draft.ledger),
        name: quantity,
        figure: atRest(quantity),
        label: "",
        ...PLAIN_ROW,
        pinned: null,
      });
    });
  say(`${quantity} ${isThere ? "stands in the ledger already" : "is in the ledger"} (Compare).`, {
    label: "Show it",
    run: () => turnTo("compare"),
  });
}
