// Signing in, and what is said where that fails.
import { screen, waitFor } from "@testing-library/react";
import { describe, expect, it, vi } from "vitest";
import { show } from "../tests/panel";
import { overTheNet, refusal, type Told } from "../tests/server";
import { LoginPage, SignIn } from "./SignIn";

async function tried(answer: Told | Error, onDone = () => undefined) {
  const sent: unknown[] = [];
  overTheNet((method, path, body) => {
    if (method !== "POST" || path !== "/api/sign-in") return undefined;
    sent.push(body);
    return answer;
  });
  const { user } = show(<SignIn onDone={onDone} />);
  await user.type(screen.getByLabelText("Name"), "ada");
  await user.type(screen.getByLabelText("Password"), "a tide table{Enter}");
  return sent;
}

describe("signing in", () => {
  it("sends name and password, and goes on", async () => {
    const onDone = vi.fn();
    const sent = await tried({ status: 200, answer: { needed: true, name: "ada" } }, onDone);
    await waitFor(() => expect(onDone).toHaveBeenCalled());
    expect(sent).toEqual([{ name: "ada", password: "a tide table" }]);
  });

  it.each([
    [refusal(403, "The name or the password is wrong."), "password is wrong"],
    [refusal(429, "Too many tries; wait a minute."), "wait a minute"],
    [new TypeError("no network"), "does not answer"],
  ])("says why it failed, and keeps what was typed", async (answer, sentence) => {
    await tried(answer);
    expect(await screen.findByRole("alert")).toHaveTextContent(sentence);
    expect(screen.getByLabelText("Name")).toHaveValue("ada");
  });

  it("shows a stranger nothing but the door", () => {
    show(<LoginPage />);
    expect(screen.getByRole("heading")).toHaveTextContent("Lucid Bench");
    expect(screen.getByRole("form", { name: "Sign in" })).toBeVisible();
  });
});
