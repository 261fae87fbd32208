// @vitest-environment jsdom
import { screen } from "@testing-library/react";
import { describe, expect, it } from "vitest";
import { drawn } from "../testing/drawn";
import { Input, Section, Segments } from "./controls";
import { explained } from "./terms";

describe("words of ours", () => {
  it("are found in labels, whole and in whatever case", () => {
    expect(explained("Make a carrier of 4 things")).toMatch(/^Carrier: one handle/);
    expect(explained("Work light, lx")).toMatch(/^Work light: /);
    expect(explained("Carriers' hall")).toBeUndefined();
    expect(explained("Looking")).toBeUndefined();
    expect(explained("Width")).toBeUndefined();
  });

  it("are explained where the pointer rests, on headings, labels and ways", () => {
    drawn(
      <Section title="Attitude">
        <Input label="Rail" value="" onChange={() => undefined} />
        <Segments name="Ways" value="a" options={[{ value: "a", label: "Depth", says: "Shadows as well" }, { value: "b", label: "Layer" }]} onChange={() => undefined} />
      </Section>,
    );
    expect(screen.getByText("Attitude").title).toMatch(/^Attitude: how it hangs/);
    expect(screen.getByText("Rail").title).toMatch(/^Rail: a line/);
    expect(screen.getByRole("radio", { name: "Depth" }).title).toBe("Shadows as well");
    expect(screen.getByRole("radio", { name: "Layer" }).title).toMatch(/^Layer: /);
  });
});
