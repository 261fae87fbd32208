// @vitest-environment jsdom
import { createEvent, fireEvent, screen } from "@testing-library/react";
import { beforeEach, describe, expect, it, vi } from "vitest";
import { drawn } from "../testing/drawn";
import { Table } from "./Table";

interface Lamp {
  id: string;
  along: string;
  kind: "hung" | "free";
}
const LAMPS: Lamp[] = [{ id: "1", along: "2.00 m", kind: "hung" }, { id: "2", along: "", kind: "free" }, { id: "3", along: "4.00 m", kind: "hung" }];
const took = vi.fn(() => Promise.resolve());

function lamps(): void {
  drawn(
    <Table
      label="Lamps" rows={LAMPS} rowKey={(row) => row.id} onSelect={() => undefined} onCells={took}
      columns={[
        { title: "No.", cell: (row) => row.id },
        { title: "Along", field: (row) => (row.kind === "hung" ? "along" : undefined), signs: "adds", text: (row) => row.along, cell: (row) => row.along },
        { title: "Kind", cell: (row) => row.kind },
        { title: "For", field: "purpose", text: () => "", cell: () => "" },
      ]}
    />,
  );
}

const cell = (row: number, column: number) => screen.getAllByRole("row")[row]?.querySelectorAll("td")[column] as HTMLElement;
const paste = (text: string) => {
  const event = createEvent.paste(cell(1, 0), { clipboardData: { getData: () => text } });
  fireEvent(cell(1, 0), event);
};

describe("cells of a table", () => {
  beforeEach(() => took.mockClear());

  it("are typed into by beginning a number on the one that was clicked", () => {
    lamps();
    fireEvent.mouseDown(cell(1, 1));
    fireEvent.keyDown(screen.getAllByRole("row")[1] as HTMLElement, { key: "z" });
    expect(screen.queryByRole("textbox")).toBeNull();
    fireEvent.keyDown(screen.getAllByRole("row")[1] as HTMLElement, { key: "3" });
    const field = screen.getByRole<HTMLInputElement>("textbox");
    expect(field.value).toBe("3");
    fireEvent.change(field, { target: { value: "3.5" } });
    fireEvent.keyDown(field, { key: "Enter" });
    expect(took).toHaveBeenCalledWith([{ id: "1", field: "along", text: "3.5" }]);
  });

  it("are not opened where a row has no such value", () => {
    lamps();
    fireEvent.doubleClick(cell(2, 1));
    expect(screen.queryByRole("textbox")).toBeNull();
  });

  it("take a block, and say into which columns it went and what was left out", () => {
    lamps();
    fireEvent.mouseDown(cell(1, 1));
    paste("1 m\tx\tChoir\n2 m\tx\tSail\n");
    expect(took).toHaveBeenCalledWith(
      [{ id: "1", field: "along", text: "1 m" }, { id: "1", field: "purpose", text: "Choir" }, { id: "2", field: "purpose", text: "Sail" }],
      "Pasted Along and For into 2 rows; left out: Kind",
    );
  });
});
