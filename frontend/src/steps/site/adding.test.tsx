// @vitest-environment jsdom
import { fireEvent, screen } from "@testing-library/react";
import { afterEach, beforeEach, expect, it, vi } from "vitest";
import { useShow } from "../../show/document";
import { useSelection } from "../../show/selection";
import { desk, ghost } from "../../testing/desk";
import { drawn } from "../../testing/drawn";
import { SiteCard } from "./Card";

afterEach(() => vi.unstubAllGlobals());

beforeEach(() => {
  useShow.setState({ objects: {} });
  useSelection.setState({ selection: [], step: "site" });
  desk({ "/edits": () => ghost() });
});

it("does not carry the name and size of one piece into another; where it stands stays", () => {
  drawn(<SiteCard />);
  fireEvent.click(screen.getByRole("radio", { name: "Scenery" }));
  const field = (label: string) => screen.getByLabelText<HTMLInputElement>(label);
  const type = (label: string, value: string) => fireEvent.change(field(label), { target: { value } });
  for (const [label, value] of [["Name", "Flat SR"], ["Width", "3m"], ["SL / SR", "SR 4"]] as const) type(label, value);
  fireEvent.change(screen.getByLabelText("Piece"), { target: { value: "table" } });
  expect(["Name", "Width", "SL / SR", "Piece"].map((label) => field(label).value)).toEqual(["", "", "SR 4", "table"]);
  expect(field("Name").placeholder).toBe("Table 1");
});
