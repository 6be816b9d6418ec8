// A fault of a panel leaves the rest of the page standing, and nothing is lost.
import { render, screen } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { afterEach, beforeEach, describe, expect, it, vi } from "vitest";
import { Guarded } from "./Guarded";

let isBroken = true;
function Panel() {
  if (isBroken) throw new Error("no such curve");
  return <p>The curve</p>;
}

describe("a panel that fails", () => {
  beforeEach(() => {
    isBroken = true;
    vi.spyOn(console, "error").mockImplementation(() => undefined);
  });
  afterEach(() => vi.restoreAllMocks());

  const page = (again: number) => (
    <>
      <p>The schematic</p>
      <Guarded what="Simulate" again={[again]}>
        <Panel />
      </Guarded>
    </>
  );

  it("says so in its own place", () => {
    render(page(1));
    expect(screen.getByText("The schematic")).toBeVisible();
    const alert = screen.getByRole("alert");
    expect(alert).toHaveTextContent("Simulate");
    expect(alert).toHaveTextContent("no such curve");
    expect(screen.getByRole("button", { name: "Reload this page" })).toBeVisible();
  });

  it("is tried again when it is told to", async () => {
    render(page(1));
    isBroken = false;
    await userEvent.click(screen.getByRole("button", { name: "Try again" }));
    expect(screen.getByText("The curve")).toBeVisible();
  });

  it("is tried again after an edit", () => {
    const { rerender } = render(page(1));
    isBroken = false;
    rerender(page(2));
    expect(screen.getByText("The curve")).toBeVisible();
  });
});
