// Both pages of an open exercise: what is said on one is seen on the other, and all of it stays.
import { screen, waitFor } from "@testing-library/react";
import { beforeEach, describe, expect, it } from "vitest";
import { Route } from "wouter";
import { navigate } from "wouter/use-browser-location";
import { forgetLooks, show } from "../tests/panel";
import { onTheLine, opened, overTheNet, refusal, told } from "../tests/server";
import { usePreferences } from "../ui/theme";
import { ExercisePage } from "./ExercisePage";

const ID = 12;

async function page(station = "") {
  overTheNet((method, path) =>
    method === "GET" && path === `/api/exercises/${ID}`
      ? { status: 200, answer: { ...opened<object>("battery-sense"), id: ID } }
      : undefined,
  );
  onTheLine({ look: told("battery-sense", "look") });
  navigate(`/exercises/${ID}${station && `/${station}`}`);
  const put = show(
    <Route path="/exercises/:id/:station?">
      {({ id, station }) => <ExercisePage id={Number(id)} station={station} />}
    </Route>,
  );
  await waitFor(() => expect(note("label l2")).toHaveTextContent("out"));
  return put;
}
const note = (of: string) => document.querySelector(`[data-note="${of}"]`) as Element;
const lit = () => document.querySelectorAll(".wire[data-lit=true]");

beforeEach(forgetLooks);

describe("the two pages of an exercise", () => {
  it("light what is pointed at on either", async () => {
    const { user } = await page("compare");
    const row = document.querySelector("tbody[data-quantity=V_out]") as Element;
    await user.hover(row);
    expect(note("label l2")).toHaveAttribute("data-lit", "true");
    expect(lit()).toHaveLength(3); // the node's three pieces of wire
    await user.unhover(row);
    await user.hover(note("label l1"));
    expect(lit()).toHaveLength(1);
  });

  it("show figures by layers, which are remembered", async () => {
    const { user } = await page();
    const arrows = () => document.querySelectorAll("[data-arrow]");
    await waitFor(() => expect(arrows()).toHaveLength(3));
    await user.click(screen.getByRole("button", { name: "Currents" }));
    await user.click(screen.getByRole("button", { name: "Powers" }));
    expect(arrows()).toHaveLength(0);
    expect(note("power P_V1")).toHaveTextContent("gives 125 µW");
    expect(note("power P_R1")).toHaveTextContent("takes 98.43 µW");
    expect(JSON.parse(localStorage.getItem("lucid-bench.layers") ?? "")).toMatchObject({
      current: false,
      power: true,
    });
  });

  it("are apart where the seam is put by keys, within bounds, and it stays", async () => {
    const { user } = await page();
    const seam = screen.getByRole("separator", { name: "Seam between the pages" });
    const before = Number(seam.getAttribute("aria-valuenow"));
    seam.focus();
    await user.keyboard("{ArrowLeft}{ArrowLeft}");
    expect(seam).toHaveAttribute("aria-valuenow", String(before - 4));
    await user.keyboard("{ArrowRight>40/}");
    expect(seam).toHaveAttribute("aria-valuenow", seam.getAttribute("aria-valuemax"));
    expect(localStorage.getItem("lucid-bench.preferences")).toContain(
      `"seam":${usePreferences.getState().seam}`,
    );
  });

  it("are drawn as a command says that is called by name", async () => {
    const { user } = await page();
    const stroke = () =>
      [...document.querySelectorAll('.part[aria-label^="R1"] path.stroke')].at(-1)?.outerHTML;
    const before = stroke();
    await user.keyboard("{Control>}k{/Control}IEEE{Enter}");
    expect(stroke()).not.toBe(before);
    await user.keyboard("{Control>}k{/Control}dark{Enter}");
    expect(usePreferences.getState().theme).toBe("dark");
  });

  it("have an address for each station", async () => {
    const { user } = await page("simulate");
    const tab = (name: string) => screen.getByRole("tab", { name });
    expect(tab("Simulate")).toHaveAttribute("aria-selected", "true");
    await user.click(tab("Compare"));
    expect(location.pathname).toBe(`/exercises/${ID}/compare`);
    expect(tab("Compare")).toHaveAttribute("aria-selected", "true");
  });

  it("are not to be had where there is no such exercise", async () => {
    overTheNet((_, path) =>
      path.startsWith("/api/exercises/") ? refusal(404, "There is no exercise 99.") : undefined,
    );
    show(<ExercisePage id={99} station={undefined} />);
    expect(await screen.findByRole("heading")).toHaveTextContent("cannot be opened");
    expect(screen.getByText("There is no exercise 99.")).toBeVisible();
    expect(screen.getByRole("link")).toHaveAttribute("href", "/");
  });
});
