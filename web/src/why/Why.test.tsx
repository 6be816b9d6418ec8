// Why two voices differ, as it is told: causes in order, what cannot be told apart, what to do with each.
import { screen, waitFor, within } from "@testing-library/react";
import { afterEach, beforeEach, describe, expect, it } from "vitest";
import type { ExplanationLook } from "../api/types";
import { useExercise } from "../document/store";
import { documentNow, forgetLooks, open, show } from "../tests/panel";
import { answerOf, askedFor, onTheLine, plain, refusal, say, told } from "../tests/server";
import { WhySheet } from "./Why";
import { WhyButton } from "./WhyButton";
import { closeWhy } from "./why";

const answer = () => answerOf<ExplanationLook>("time-signal-filter", "why");
const sheet = () => within(screen.getByRole("region", { name: "Why" }));
const causes = () => within(sheet().getByRole("list", { name: "Causes" })).getAllByRole("listitem");

function shown() {
  const put = show(
    <>
      <WhyButton at="here" question={{}}>
        Explain all
      </WhyButton>
      <WhySheet at="here" />
    </>,
  );
  return {
    ...put,
    opens: () => put.user.click(screen.getByRole("button", { name: "Explain all" })),
  };
}

beforeEach(() => {
  forgetLooks();
  open("time-signal-filter");
});
afterEach(closeWhy);

describe("an answer", () => {
  it("names the causes in order, with how probable each is and how much it explains", async () => {
    onTheLine({ explain: told("time-signal-filter", "why") });
    await shown().opens();
    await waitFor(() => expect(causes()).toHaveLength(answer().causes.length));
    expect(sheet().getByText(plain(answer().answer))).toBeVisible();
    const meters = sheet().getAllByRole("meter", { name: "Explains of the gap" });
    const stated = answer().causes.map(({ explains }) => Math.round(100 * explains));
    expect(meters.map((meter) => Number(meter.getAttribute("aria-valuenow")))).toEqual(stated);
  });

  it("marks what these data cannot tell apart from the one before", async () => {
    onTheLine({ explain: told("time-signal-filter", "why") });
    await shown().opens();
    await waitFor(() => expect(causes().length).toBeGreaterThan(1));
    const alike = answer().causes.map(
      (cause, k, all) => k > 0 && all[k - 1]?.group === cause.group,
    );
    expect(causes().map((item) => item.textContent?.startsWith("or: "))).toEqual(alike);
  });

  it("puts a cause into the model as one edit", async () => {
    onTheLine({ explain: told("time-signal-filter", "why") });
    const { opens, user } = shown();
    await opens();
    const before = documentNow();
    await waitFor(() => expect(causes().length).toBeGreaterThan(0));
    const first = within(causes()[0] as HTMLElement);
    await user.click(first.getByRole("button", { name: "Put it into the model" }));
    const coil = documentNow().schematic.parts.find(({ name }) => name === "L1");
    expect(coil).not.toEqual(before.schematic.parts.find(({ name }) => name === "L1"));
  });

  it("keeps a cause as a case, which is looked at then", async () => {
    onTheLine({ explain: told("time-signal-filter", "why") });
    const { opens, user } = shown();
    await opens();
    await waitFor(() => expect(causes().length).toBeGreaterThan(0));
    const before = documentNow().cases.length;
    await user.click(within(causes()[0] as HTMLElement).getByRole("button", { name: "As a case" }));
    await waitFor(() => expect(documentNow().cases).toHaveLength(before + 1));
    expect(useExercise.getState().shownCase).toBe(documentNow().cases.at(-1)?.id);
  });

  it("asks again without a cause that is ruled out, and with it when it is counted again", async () => {
    onTheLine({ explain: told("time-signal-filter", "why") });
    const { opens, user } = shown();
    await opens();
    await waitFor(() => expect(causes().length).toBeGreaterThan(0));
    await user.click(
      within(causes()[0] as HTMLElement).getByRole("button", { name: "Not this one" }),
    );
    const ruled = answer().causes[0]?.ruled_by;
    await waitFor(() => expect(askedFor("explain").at(-1)).toMatchObject({ without: ruled }));
    await user.click(sheet().getByRole("button", { name: "Count them again" }));
    await waitFor(() => expect(askedFor("explain").at(-1)).toMatchObject({ without: [] }));
  });

  it("leaves away what shall not count", async () => {
    onTheLine({ explain: told("time-signal-filter", "why") });
    const { opens, user } = shown();
    await opens();
    const [source] = answer().sources;
    await user.click(await sheet().findByRole("button", { name: plain(source?.label ?? "") }));
    await waitFor(() => expect(askedFor("explain").at(-1)).toMatchObject({ left: [source?.key] }));
  });

  it("of a hand figure offers to write it right", async () => {
    open("hydrophone-stage");
    onTheLine({ explain: told("hydrophone-stage", "why by hand") });
    await shown().opens();
    const by = answerOf<ExplanationLook>("hydrophone-stage", "why by hand");
    expect(await sheet().findByText(plain(by.answer))).toBeVisible();
  });
});

describe("while it is looked for", () => {
  it("tells how far it is and what is known, and stops when told to", async () => {
    const { opens, user } = shown();
    await opens();
    await waitFor(() => expect(askedFor("explain")).toHaveLength(1));
    say("explain", { progress: 0.25 });
    expect(await sheet().findByRole("progressbar", { name: "Causes tried" })).toHaveValue(0.25);
    say("explain", { so_far: true }, { ...answer(), is_all: false });
    await waitFor(() => expect(causes()).toHaveLength(answer().causes.length));
    await user.click(sheet().getByRole("button", { name: "Stop" }));
    expect(askedFor("cancel")).toHaveLength(1);
  });

  it("says why there is no answer", async () => {
    onTheLine({ explain: refusal(422, "Nothing was measured.") });
    await shown().opens();
    expect(await sheet().findByText("Nothing was measured.")).toBeVisible();
  });

  it("is closed by Escape and ended", async () => {
    const { opens, user } = shown();
    await opens();
    await waitFor(() => expect(askedFor("explain")).toHaveLength(1));
    await user.keyboard("{Escape}");
    expect(screen.queryByRole("region", { name: "Why" })).toBeNull();
    expect(askedFor("cancel")).toHaveLength(1);
  });
});
