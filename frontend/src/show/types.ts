import type { components } from "./api.generated";

type Schemas = components["schemas"];
export type EditArgs = Schemas["EditArgs"];
export type Bodies = Schemas["Bodies"];
export type BodyOut = Schemas["BodyOut"];
export type ShowDocument = Schemas["Document"];
export type Update = Schemas["Update"];
export type EditResult = Schemas["EditResult"];
export type GhostOut = Schemas["Ghost"];
export type Finding = Schemas["FindingOut"];
export type TypeOut = Schemas["TypeOut"];
export type SignalEvent = Schemas["SignalEvent"];
export type DoctorReport = Schemas["DoctorReport"];
export type DoctorEvent = Schemas["DoctorEvent"];
export type SourceOut = Schemas["SourceOut"];
export type ConnectionOut = Schemas["ConnectionOut"];
export type InterfaceOut = Schemas["InterfaceOut"];
export type TroubleEvent = Schemas["TroubleEvent"];
export type PatchEvent = Schemas["PatchEvent"];
export type SimulatedReport = Schemas["SimulatedReport"];
export type SimulatedEvent = Schemas["SimulatedEvent"];
export type SimulatedLevels = Schemas["SimulatedLevels"];
export type SimulatedConsole = Schemas["SimulatedConsole"];
export type ConsoleState = Schemas["ConsoleState"];
export type ConsolePatch = Schemas["ConsolePatch"];
export type ConsoleStart = Schemas["ConsoleStart"];
export type ConsoleCommand = Schemas["ConsoleCommand"];
export type ConsolesReport = Schemas["ConsolesReport"];
export type ConsolesEvent = Schemas["ConsolesEvent"];
export type LinkedConsole = Schemas["LinkOut"];
export type OfferedRig = Schemas["OfferedRig"];
export type CheckReport = Schemas["CheckReport"];
export type CheckEvent = Schemas["CheckEvent"];
export type CheckRequest = Schemas["CheckRequest"];
export type PointingOut = Schemas["PointingOut"];
export type ColoursOut = Schemas["ColoursOut"];
export type Wheels = Schemas["Wheels"];
export type ReachOut = Schemas["ReachOut"];
export type Landing = Schemas["LandingOut"];
export type TypePreview = Schemas["TypePreview"];
export type HistoryEntry = Schemas["HistoryEntry"];
export type Point = Schemas["Point"];
export type DrawingPreview = Schemas["DrawingPreview"];
export type RecentShow = Schemas["RecentShow"];
export type MeshFacts = Schemas["MeshFacts"];
export type WallFacts = Schemas["WallFacts"];
export type PresenceEvent = Schemas["PresenceEvent"];
export type FindingsEvent = Schemas["FindingsEvent"];
export type OpenedEvent = Schemas["OpenedEvent"];
export type MeshPreview = Schemas["MeshPreview"];
export type JobOut = Schemas["JobOut"];
export type JobsEvent = Schemas["JobsEvent"];
export type Kind = keyof Bodies;

/** A thing in the show, with the body of its kind. */
export interface Thing<K extends Kind = Kind> {
  id: string;
  kind: K;
  parent: string | null;
  layer: string | null;
  ord: number;
  rev: number;
  body: Bodies[K];
}
/** Any of them: `kind` says which body it has. */
export type Row = { [K in Kind]: Thing<K> }[Kind];

export type Step = "site" | "hang" | "aim" | "patch" | "signal" | "looks" | "review" | "papers";
export const STEPS: Step[] = ["site", "hang", "aim", "patch", "signal", "looks", "review", "papers"];
export type PatchCompared = Schemas["PatchCompared"];
export type DimmerOut = Schemas["DimmerOut"];
export type TakenOut = Schemas["TakenOut"];
export type MonitorEvent = Schemas["MonitorEvent"];
export type MeaningOut = Schemas["MeaningOut"];
export type CaptureReport = Schemas["CaptureReport"];
export type CaptureEvent = Schemas["CaptureEvent"];
