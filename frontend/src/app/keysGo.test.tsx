// @vitest-environment jsdom
import { fireEvent, screen, waitFor, within } from "@testing-library/react";
import { type ReactElement, useState } from "react";
import { afterEach, beforeEach, describe, expect, it, vi } from "vitest";
import { Action, Choice, Field, Input, Level, Segments } from "../kit/controls";
import { Table } from "../kit/Table";
import { useArrange } from "../show/arranging";
import { settings, useShow } from "../show/document";
import { usePanes } from "../show/panes";
import { useSelection } from "../show/selection";
import { changed, desk, row } from "../testing/desk";
import { drawn } from "../testing/drawn";
import { KeysHelp } from "./KeysHelp";
import { useKeys } from "./keys";

const help = vi.fn();
const submitted = vi.fn();
const pressed = vi.fn();
const took = vi.fn();
let asked: ReturnType<typeof desk> = [];

beforeEach(() => {
  vi.clearAllMocks();
  useShow.setState({ id: "s", rev: 4, objects: { show: row("show", "show", { ...settings({}), system: "metric", work_light_lx: 0 }) } });
  asked = desk({ "/edits": () => changed(), "/undo": () => changed() });
  useArrange.setState({ on: false });
});
afterEach(() => vi.unstubAllGlobals());

function Controls() {
  useKeys({ find: () => undefined, help });
  const [text, setText] = useState("");
  const [way, setWay] = useState<"a" | "b">("a");
  return (
    <>
      <Field label="Held" value="1.00 m" onCommit={() => Promise.resolve()} />
      <Input label="Free" value={text} onChange={setText} />
      <form
        onSubmit={(event) => {
          event.preventDefault();
          submitted();
        }}
      >
        <Input label="In a form" value={text} onChange={setText} />
        <Choice label="Which" value={way} options={["a", "b"]} onChange={setWay} />
        <Segments name="Ways" value={way} options={[{ value: "a", label: "First" }, { value: "b", label: "Second" }]} onChange={setWay} />
        <Action type="submit">Do it</Action>
      </form>
      <textarea aria-label="Note" />
      <Level label="How much" value={0.5} onChange={() => undefined} />
      <input type="checkbox" aria-label="Tick" />
      <input type="color" aria-label="Colour" />
      <Action onClick={pressed}>Press</Action>
      <Table label="Rows" rows={["one", "two", "three"]} rowKey={(one) => one} columns={[{ title: "Name", sort: (one) => one, cell: (one) => one }, { title: "", cell: (one) => <button onClick={pressed}>go to {one}</button> }]} onSelect={took} />
    </>
  );
}

/** A key pressed where the focus is. */
const press = (key: string, more: object = {}) => fireEvent.keyDown(document.activeElement ?? document.body, { key, ...more });
const by = (label: string): HTMLElement => screen.getByLabelText(label);
const undone = (): number => asked.filter(({ path }) => path.endsWith("/undo")).length;
const lit = (): number => asked.filter(({ body }) => body?.kind === "set show").length;

/** By a click, as a person comes to a control. */
function click(control: HTMLElement): void {
  fireEvent.pointerDown(control);
  control.focus();
  fireEvent.click(control);
}

const CONTROLS: [string, () => HTMLElement][] = [
  ["a list", () => by("Which")],
  ["a slider", () => by("How much")],
  ["a tick", () => by("Tick")],
  ["a colour", () => by("Colour")],
  ["a button", () => screen.getByRole("button", { name: "Press" })],
  ["one of several ways", () => screen.getByRole("radio", { name: "Second" })],
  ["a row", () => screen.getByText("two").closest("tr") as HTMLElement],
];

describe("keys go on after", () => {
  it.each(CONTROLS)("%s was used", async (_, control) => {
    drawn(<Controls />);
    click(control());
    press("z", { ctrlKey: true });
    press("w");
    press("?");
    await waitFor(() => expect([undone(), lit(), help.mock.calls.length]).toEqual([1, 1, 1]));
  });

  it("Enter in a field that holds a value", async () => {
    drawn(<Controls />);
    click(by("Held"));
    fireEvent.change(by("Held"), { target: { value: "2" } });
    press("w");
    expect(lit()).toBe(0);
    press("Enter");
    await waitFor(() => expect(document.activeElement).toBe(document.body));
    press("z", { ctrlKey: true });
    press("w");
    press("?");
    await waitFor(() => expect([undone(), lit(), help.mock.calls.length]).toEqual([1, 1, 1]));
  });

  it("Escape in a field", () => {
    drawn(<Controls />);
    for (const label of ["Held", "Free", "In a form", "Note"]) {
      click(by(label));
      press("Escape");
      expect(document.activeElement).toBe(document.body);
    }
  });
});

describe("keys of Aim", () => {
  const released = () => asked.filter(({ body }) => body?.kind === "release").map(({ body }) => (body?.args as { ids: string[] }).ids);

  it("let go of what is held: of the selection, or of all; and take hold of blades", async () => {
    const lamp = (id: string, hands: object) => row(id, "fixture", { type: "heron", mode: "Standard", number: 1, hands, fixed: {}, purpose: "" } as never);
    useShow.setState({ objects: { ...useShow.getState().objects, a: lamp("a", { pan: 1 }), b: lamp("b", { dimmer: 1 }), c: lamp("c", {}) }, bodies: [] });
    useSelection.setState({ selection: ["a", "c"], step: "aim" });
    drawn(<Controls />);
    press("x");
    press("X", { shiftKey: true });
    await waitFor(() => expect(released()).toEqual([["a", "c"], ["a", "b"]]));
    press("g");
    expect(usePanes.getState().tool).toBe("blades");
    press("Escape");
    expect(usePanes.getState().tool).toBe("select");
    useSelection.setState({ selection: [], step: "site" });
    press("X", { shiftKey: true });
    expect(released()).toHaveLength(2);
  });
});

describe("keys that are typed stay where they are typed", () => {
  it.each(["Held", "Free", "In a form", "Note"])("in %s", (label) => {
    drawn(<Controls />);
    click(by(label));
    for (const key of ["w", "?", "Delete", "b", "r"]) press(key);
    press("z", { ctrlKey: true });
    expect([undone(), lit(), help.mock.calls.length]).toEqual([0, 0, 0]);
  });

  it("and a dialog has its own", () => {
    drawn(<><Controls /><div role="dialog"><button>Inside</button></div></>);
    screen.getByRole("button", { name: "Inside" }).focus();
    press("w");
    press("Delete");
    expect(lit()).toBe(0);
  });
});

describe("Enter", () => {
  it.each([...CONTROLS.filter(([name]) => !["a row"].includes(name)), ["a free field", () => by("Free")] as [string, () => HTMLElement]])("takes what is arranged from %s", async (_, control) => {
    useArrange.setState({ on: true, ids: ["f"], args: { ...useArrange.getState().args, reverse: false } });
    drawn(<Controls />);
    click(control());
    press("Enter");
    await waitFor(() => expect(asked.filter(({ body }) => body?.kind === "arrange" && !body.preview)).toHaveLength(1));
    // R turns it round, but for where it is typed.
    press("r");
    expect(useArrange.getState().args.reverse).toBe(document.activeElement !== by("Free"));
    useArrange.setState({ on: false });
  });

  it.each(["In a form", "Note"])("is left to the browser in %s", (label) => {
    drawn(<Controls />);
    click(by(label));
    // Not prevented: the browser sends the form, or begins a line.
    expect(press("Enter")).toBe(true);
  });

  it("does what the main button says from lists and ways of its form, and presses what was come to by the keyboard", () => {
    drawn(<Controls />);
    click(by("Which"));
    press("Enter");
    click(screen.getByRole("radio", { name: "First" }));
    press("Enter");
    expect(submitted).toHaveBeenCalledTimes(2);
    press("Tab");
    screen.getByRole("radio", { name: "Second" }).focus();
    press("Enter");
    // The browser presses it by itself.
    expect(submitted).toHaveBeenCalledTimes(2);
  });
});

describe("a table", () => {
  const stops = (): string[] => [...document.querySelectorAll<HTMLElement>("[aria-label=Rows] [tabindex]")].filter((one) => one.tabIndex === 0).map((one) => one.dataset.id ?? one.tagName);
  const at = (): string | undefined => (document.activeElement as HTMLElement).dataset.id;

  it("is one tab stop, and is gone through by the arrows", () => {
    drawn(<Controls />);
    expect(stops()).toEqual(["one"]);
    expect(within(by("Rows")).getAllByRole("button").every((one) => one.tabIndex === -1)).toBe(true);
    (document.querySelector("tr[data-id=one]") as HTMLElement).focus();
    const way = [];
    for (const key of ["ArrowDown", "End", "ArrowUp", "Home", "ArrowDown"]) {
      press(key);
      way.push(at());
    }
    expect(way).toEqual(["two", "three", "two", "one", "two"]);
    expect(stops()).toEqual(["two"]);
    press("Enter");
    expect(took).toHaveBeenLastCalledWith(["two"], false);
    press("ArrowRight");
    expect(document.activeElement?.textContent).toBe("go to two");
    press("ArrowLeft");
    expect(at()).toBe("two");
  });

  it("is sorted from above its first row", () => {
    drawn(<Controls />);
    (document.querySelector("tr[data-id=one]") as HTMLElement).focus();
    press("ArrowUp");
    expect(document.activeElement?.textContent).toBe("Name");
    press("Enter");
    expect([...document.querySelectorAll("tr[data-id]")].map((one) => (one as HTMLElement).dataset.id)).toEqual(["one", "three", "two"]);
    press("ArrowDown");
    expect(at()).toBe("one");
  });
});

describe("the list of keys", () => {
  const groups = (): (string | null)[] => [...document.querySelectorAll("th[scope=rowgroup]")].map((one) => one.textContent);

  it("is a table, that begins with the keys of the step", () => {
    useSelection.setState({ step: "hang" });
    drawn(<KeysHelp onClose={() => undefined} /> as ReactElement);
    expect(groups().slice(0, 4)).toEqual(["Hang: arranging", "Hang: putting by pointing", "Hang: tables", "Every step"]);
    expect(groups().at(-1)).toBe("Papers: a sheet");
    expect(screen.getByRole("table", { name: "Keys" }).querySelectorAll("tr:has(th[scope=row])").length).toBeGreaterThan(25);
  });
});

usePanes.setState({ tool: "select" });
