import { Box } from "@chakra-ui/react";
import { useState } from "react";
import { Action, Choice, FileField, Input, Section, Sign } from "../../kit/controls";
import { sendFile } from "../../show/api";
import { settings, useShow } from "../../show/document";
import { edit } from "../../show/edits";
import { useDroppedFile } from "../../show/dropped";
import { length } from "../../show/format";
import type { MeshPreview } from "../../show/types";

const UNITS: Record<string, number> = { m: 1, cm: 0.01, mm: 0.001, in: 0.0254, ft: 0.3048 };

/** A set piece or a room out of a file: its size and the axis that is up are seen before it lands. */
export function MeshFile() {
  const show = useShow((state) => state.id);
  const { system } = useShow((state) => settings(state.objects));
  const [read, setRead] = useState<MeshPreview | null>(null);
  const [unit, setUnit] = useState("m");
  const [up, setUp] = useState<"y" | "z">("z");
  const [reflectance, setReflectance] = useState("0.4");
  const [wrong, setWrong] = useState("");
  const told = (error: unknown) => setWrong(error instanceof Error ? error.message : String(error));
  const look = async (file: File) => {
    setRead(null);
    setWrong("");
    try {
      const found = await sendFile("/api/shows/{show}/meshes", { show }, file);
      setRead(found);
      setUp(found.up === "y" ? "y" : "z");
      setUnit("m");
    } catch (error) {
      told(error);
    }
  };
  useDroppedFile("set piece", (file) => void look(file));
  const scale = UNITS[unit] ?? 1;
  const [wide, deep, high] = read ? (up === read.up ? read.size : [read.size[0], read.size[2], read.size[1]]) : [0, 0, 0];
  const add = () => {
    if (!read) return;
    const value = Number(reflectance.replace(",", "."));
    void edit("add mesh", { name: read.name, asset: read.asset, scale, up, reflectance: Number.isFinite(value) ? value : 0.4 }, { quiet: true, select: true }).then(() => setRead(null), told);
  };
  return (
    <Section title="A set piece from a file">
      <FileField label="A GLB or OBJ file" accept=".glb,.obj" onFile={(file) => void look(file)} />
      {wrong && <Sign tone="wrong">{wrong}</Sign>}
      {read && (
        <Box role="region" aria-label="What the mesh holds" fontSize="12px">
          <Choice label="One unit is" value={unit} options={Object.keys(UNITS)} onChange={setUnit} />
          <Choice label="Up is" value={up} options={(["y", "z"] as const).map((axis) => ({ value: axis, label: axis === read.up ? `${read.said_up}, as the file has it` : read.said_up === "y" ? "z" : "y" }))} onChange={setUp} />
          {read.likely && unit === "m" && (
            <Sign tone="attention">
              In metres it would be {length(Math.max(...read.size), system)} long: it is more likely in {read.likely}.{" "}
              <Action height="22px" onClick={() => setUnit(read.likely ?? "m")}>One unit is {read.likely}</Action>
            </Sign>
          )}
          <Input label="Gives back" value={reflectance} onChange={setReflectance} />
          <Box color="dim" mb="6px">
            So it is {length((wide ?? 0) * scale, system)} wide, {length((deep ?? 0) * scale, system)} deep and {length((high ?? 0) * scale, system)} high; {read.triangles} triangles.
          </Box>
          <Action look="main" onClick={add}>Add {read.name}</Action>
        </Box>
      )}
    </Section>
  );
}
