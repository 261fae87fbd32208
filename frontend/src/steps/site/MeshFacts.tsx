import { Box, Flex } from "@chakra-ui/react";
import { useEffect, useState } from "react";
import { Action, Field, Input, Section, Sign } from "../../kit/controls";
import { get } from "../../show/api";
import { useShow } from "../../show/document";
import { edit, leaveGhost } from "../../show/edits";
import { editAtLength, previewAtLength } from "../../show/jobs";
import { useOnly } from "../../show/selected";
import type { MeshFacts as Facts } from "../../show/types";

/** A set piece out of a file: how heavy it is, made lighter with what that costs, and how much light each material gives back. */
export function MeshFacts() {
  const mesh = useOnly("mesh");
  const show = useShow((state) => state.id);
  const [facts, setFacts] = useState<Facts | null>(null);
  const [triangles, setTriangles] = useState("");
  const [said, setSaid] = useState("");
  const [wrong, setWrong] = useState("");
  const id = mesh?.id;
  useEffect(() => {
    let alive = true;
    if (id) void get("/api/shows/{show}/meshes/{thing}", { params: { path: { show, thing: id } } }).then((found) => alive && setFacts(found), () => undefined);
    return () => {
      alive = false;
      leaveGhost();
    };
  }, [id, show]);
  if (!mesh || !facts) return null;
  const told = (error: unknown) => setWrong(error instanceof Error ? error.message : String(error));
  const look = () => {
    setWrong("");
    void previewAtLength("simplify mesh", { id: mesh.id, triangles }).then((report) => setSaid(report[0] ?? ""), told);
  };
  const take = (count: string) => {
    setWrong("");
    void editAtLength("simplify mesh", { id: mesh.id, triangles: count }).then(() => { setSaid(""); leaveGhost(); }, told);
  };
  return (
    <Section title="Its mesh">
      <Box fontSize="12px" color="dim" mb="6px">
        {facts.triangles} triangles in its file{mesh.body.triangles ? `, shown with about ${mesh.body.triangles}` : ""}.
      </Box>
      <Input label="Fewer" value={triangles} hint={String(Math.max(Math.round(facts.triangles / 4), 12))} onChange={setTriangles} />
      {said && <Sign tone="attention">{said}</Sign>}
      {wrong && <Sign tone="wrong">{wrong}</Sign>}
      <Flex gap="6px" mb="8px" wrap="wrap">
        <Action height="24px" look="quiet" disabled={!triangles.trim()} onClick={look}>Look at it</Action>
        <Action height="24px" disabled={!triangles.trim()} onClick={() => take(triangles)}>Simplify it</Action>
        {mesh.body.triangles && <Action height="24px" look="quiet" onClick={() => take("")}>All of them again</Action>}
      </Flex>
      {facts.materials.filter((one) => one.name || facts.materials.length > 1).map((one) => (
        <Field
          key={one.name} label={one.name || "Other"} hint="as its file"
          value={mesh.body.reflectances?.[one.name] !== undefined ? String(mesh.body.reflectances[one.name]) : one.reflectance === null ? "" : one.reflectance.toFixed(2)}
          onCommit={(text) => edit("set reflectance", { id: mesh.id, material: one.name, reflectance: text }, { quiet: true })}
        />
      ))}
    </Section>
  );
}
