// The card of a part: its values as typed and as understood, its model, and what it complains of.
import { screen, waitFor, within } from "@testing-library/react";
import { beforeEach, describe, expect, it } from "vitest";
import type { PartLook } from "../../../api/types";
import { useExercise } from "../../../document/store";
import { documentNow, forgetLooks, lookOf, open, show } from "../../../tests/panel";
import { WithCatalogue } from "../../editor/catalogue";
import { PartFields } from "./PartFields";

const idOf = (name: string) =>
  documentNow().schematic.parts.find((part) => part.name === name)?.id ?? "";
const valuesOf = (name: string) =>
  documentNow().schematic.parts.find((part) => part.name === name)?.values ?? {};

async function card(name: string) {
  const put = show(
    <WithCatalogue>
      <PartFields id={idOf(name)} />
    </WithCatalogue>,
  );
  await waitFor(() => expect(screen.getAllByRole("textbox").length).toBeGreaterThan(1));
  return put;
}

/** What the server says of one value of a part. */
function said(name: string, key: string, to: Partial<PartLook["values"][number]>): void {
  const look = lookOf("battery-sense");
  const parts = look.parts.map((part) =>
    part.id !== idOf(name)
      ? part
      : {
          ...part,
          values: part.values.map((value) => (value.key === key ? { ...value, ...to } : value)),
        },
  );
  useExercise.getState().seen({ ...look, parts }, documentNow(), null);
}

beforeEach(() => {
  forgetLooks();
  open("battery-sense");
});

describe("a value", () => {
  it("stands as it is written, and as it is understood", async () => {
    await card("R2");
    expect(screen.getByRole("textbox", { name: "Resistance" })).toHaveValue(
      valuesOf("R2").resistance,
    );
    expect(screen.getByLabelText("Resistance as understood")).toHaveTextContent("= 270 kΩ");
  });

  it("goes into the document as it is typed, as one edit", async () => {
    const { user } = await card("R2");
    const before = valuesOf("R2").resistance;
    const field = screen.getByRole("textbox", { name: "Resistance" });
    await user.clear(field);
    await user.type(field, "330k");
    expect(valuesOf("R2").resistance).toBe("330k");
    useExercise.getState().undo();
    expect(valuesOf("R2").resistance).toBe(before);
  });

  it("is stepped by the arrow keys", async () => {
    const { user } = await card("R2");
    await user.click(screen.getByRole("textbox", { name: "Resistance" }));
    await user.keyboard("{ArrowUp}");
    expect(valuesOf("R2").resistance).toBe("280 kΩ");
    await user.keyboard("{ArrowDown}{ArrowDown}");
    expect(valuesOf("R2").resistance).toBe("260 kΩ");
  });

  it("that cannot be read says so and offers the mend", async () => {
    const { user } = await card("R2");
    said("R2", "resistance", {
      echo: "",
      problem: "“U” is not a prefix",
      offers: [{ label: "Use 22µ", text: "22µ" }],
    } as never);
    expect(await screen.findByText(/“U” is not a prefix/)).toBeVisible();
    expect(screen.getByRole("textbox", { name: "Resistance" })).toBeInvalid();
    await user.click(screen.getByRole("button", { name: "Use 22µ" }));
    expect(valuesOf("R2").resistance).toBe("22µ");
  });

  it("that is unlikely is asked about", async () => {
    await card("R2");
    said("R2", "resistance", { question: "22 µΩ is unusually small for a resistor" });
    expect(await screen.findByText(/unusually small/)).toBeVisible();
    expect(screen.getByRole("textbox", { name: "Resistance" })).toBeValid();
  });
});

describe("a part", () => {
  it("is a textbook one or a practical one, and keeps what was written of the other", async () => {
    const { user } = await card("V1");
    await user.click(screen.getByRole("radio", { name: "Practical" }));
    const inner = await screen.findByRole("textbox", { name: "Internal resistance" });
    await user.clear(inner);
    await user.type(inner, "1M");
    await user.click(screen.getByRole("radio", { name: "Textbook" }));
    expect(screen.queryByRole("textbox", { name: "Internal resistance" })).toBeNull();
    await user.click(screen.getByRole("radio", { name: "Practical" }));
    expect(await screen.findByRole("textbox", { name: "Internal resistance" })).toHaveValue("1M");
  });

  it("is turned, mirrored and removed from its card", async () => {
    const { user } = await card("R2");
    const rotation = () =>
      documentNow().schematic.parts.find((part) => part.name === "R2")?.rotation;
    const before = rotation();
    await user.click(screen.getByRole("button", { name: /Rotate/ }));
    expect(rotation()).not.toBe(before);
    const id = idOf("R2");
    await user.click(screen.getByRole("button", { name: /Remove/ }));
    await waitFor(() =>
      expect(documentNow().schematic.parts.some((part) => part.id === id)).toBe(false),
    );
  });

  it("offers the other kinds that fit in its place", async () => {
    const { user } = await card("R2");
    await user.click(screen.getByRole("button", { name: "Replace by another part" }));
    await user.click(await screen.findByRole("menuitem", { name: "Capacitor" }));
    expect(documentNow().schematic.parts.find((part) => part.name === "R2")?.kind).toBe(
      "capacitor",
    );
  });

  it("shows nothing once it is gone", async () => {
    await card("R2");
    const id = idOf("R2");
    useExercise.getState().editSheet((schematic) => {
      schematic.parts = schematic.parts.filter((part) => part.id !== id);
    });
    await waitFor(() => expect(screen.queryByRole("textbox", { name: "Resistance" })).toBeNull());
    expect(within(document.body).queryByText("Resistor")).toBeNull();
  });
});
