// A value sought: what is asked, what is found, and putting it in.
import { screen, waitFor } from "@testing-library/react";
import { beforeEach, describe, expect, it } from "vitest";
import { useExercise } from "../document/store";
import { documentNow, forgetLooks, open, show } from "../tests/panel";
import { askedFor, onTheLine, refusal } from "../tests/server";
import { Seek } from "./Seek";

const resistor = () => {
  const k = documentNow().schematic.parts.findIndex(({ name }) => name === "R2");
  return { k, value: documentNow().schematic.parts[k]?.values.resistance };
};
const found = () => ({
  status: 200,
  answer: {
    sentence: "With R2 = 135.1 kΩ, V_out is 1.5 V.",
    changes: [
      {
        op: "replace",
        path: `/schematic/parts/${resistor().k}/values/resistance`,
        value: "135.1 kΩ",
      },
    ],
  },
});

beforeEach(() => {
  forgetLooks();
  open("battery-sense");
});

const asked = async () => {
  const { user } = show(<Seek />);
  expect(screen.getByRole("button", { name: "Seek" })).toBeDisabled();
  await user.selectOptions(screen.getByRole("combobox", { name: "Part sought" }), "R2");
  await user.type(screen.getByRole("textbox", { name: "Value wanted" }), "1.5 V{Enter}");
  return user;
};

describe("a value sought", () => {
  it("is asked for with the part, its limits and the figure", async () => {
    onTheLine({ seek: found() });
    await asked();
    await waitFor(() => expect(askedFor("seek")).toHaveLength(1));
    expect(askedFor("seek")[0]).toMatchObject({
      free: [{ part: "R2", lowest: "", highest: "" }],
      targets: [{ row: "V_out", text: "1.5 V" }],
    });
  });

  it("is put in at a press, as one edit, and not offered for another circuit", async () => {
    onTheLine({ seek: found() });
    const user = await asked();
    const before = resistor().value;
    await user.click(await screen.findByRole("button", { name: "Put in" }));
    expect(resistor().value).toBe("135.1 kΩ");
    await waitFor(() => expect(screen.queryByRole("button", { name: "Put in" })).toBeNull());
    useExercise.getState().undo();
    expect(resistor().value).toBe(before);
  });

  it("that is not to be had is said not to be", async () => {
    onTheLine({ seek: refusal(422, "No value of R2 makes V_out 15 V.") });
    await asked();
    expect(await screen.findByText("No value of R2 makes V_out 15 V.")).toBeVisible();
  });

  it("may be two", async () => {
    const { user } = show(<Seek />);
    await user.click(screen.getByRole("button", { name: "And a second value" }));
    expect(screen.getByRole("combobox", { name: "Second part sought" })).toBeVisible();
    await user.click(screen.getByRole("button", { name: "One value only" }));
    expect(screen.queryByRole("combobox", { name: "Second part sought" })).toBeNull();
  });
});
