import type { Solid } from "../stage/data";
import type { Stand } from "../stage/scene/stands";
import { get, getBytes } from "./api";
import { hearCarried, hearPoses } from "./carried";
import { hearCapture, readCapture } from "./capture";
import { hearCheck, hearConsoles, readConsoles } from "./consoles";
import { FrameReader, type Scaling } from "./frames";
import { applyUpdate, at, hearFindings, load, useShow } from "./document";
import { hearJobs, readJobs } from "./jobs";
import { useLink } from "./connection";
import { hearPicture, hearSettling, readSettling } from "./looks";
import { hearFeed, hearLasers, hearPaths, readFeed } from "./lasers";
import { notify } from "./messages";
import { hearMonitor } from "./monitor";
import { hearPresence } from "./presence";
import { hearDoctor, readDoctor } from "./doctor";
import { hearRun, readRun } from "./run";
import { hearSimulated, hearSimulatedLevels, readSimulated } from "./simulated";
import type { CaptureEvent, CarriedEvent, CheckEvent, ConsolesEvent, DoctorEvent, FindingsEvent, JobsEvent, LaserFeedEvent, LasersEvent, LookStand, MonitorEvent, OpenedEvent, PatchEvent, PictureEvent, PresenceEvent, RunEvent, SettlingEvent, SignalEvent, SimulatedEvent, SimulatedLevels, TroubleEvent, Update } from "./types";

type Event = CarriedEvent | LasersEvent | LaserFeedEvent | SignalEvent | PatchEvent | SimulatedEvent | SimulatedLevels | ConsolesEvent | CheckEvent | Update | PresenceEvent | OpenedEvent | FindingsEvent | JobsEvent | TroubleEvent | DoctorEvent | MonitorEvent | CaptureEvent | RunEvent | PictureEvent | SettlingEvent;
type Listener = (picture: string, values: Float32Array, left?: number) => void;

/** Frames go straight from the socket to the stage; React never sees them. */
const listeners = new Set<Listener>();
const latest = new Map<string, Float32Array>();
let scaling: Scaling | null = null;
let socket: WebSocket | null = null;
let wait = 250;
let opens = 0;

/** Hear every frame, and at once the latest of each picture. */
export function onFrame(listener: Listener): () => void {
  listeners.add(listener);
  latestFrames(listener);
  return () => listeners.delete(listener);
}

/** The latest of each picture once more: for a stage that has just been told the patch it goes by. */
export function latestFrames(listener: Listener): void {
  for (const [picture, values] of latest) listener(picture, values);
}

function deliver(picture: string, values: Float32Array, left?: number): void {
  latest.set(picture, values);
  for (const listener of listeners) listener(picture, values, left);
}

function hear(event: Event): void {
  if (event.event === "update") applyUpdate(event);
  else if (event.event === "patch") {
    scaling = { rig: event.rig, scale: event.scale, offset: event.offset };
    latest.clear();
    useLink.setState({ patch: event });
  } else if (event.event === "signal") useLink.setState({ signal: event });
  else if (event.event === "findings") hearFindings(event);
  else if (event.event === "simulated") hearSimulated(event);
  else if (event.event === "simulated levels") hearSimulatedLevels(event);
  else if (event.event === "consoles") hearConsoles(event);
  else if (event.event === "check") hearCheck(event);
  else if (event.event === "doctor") hearDoctor(event);
  else if (event.event === "monitor") hearMonitor(event);
  else if (event.event === "capture") hearCapture(event);
  else if (event.event === "jobs") hearJobs(event.jobs);
  else if (event.event === "run") hearRun(event);
  else if (event.event === "carried") hearCarried(event);
  else if (event.event === "lasers") hearLasers(event);
  else if (event.event === "laser feed") hearFeed(event);
  else if (event.event === "settling") hearSettling(event);
  else if (event.event === "picture") hearPicture(event);
  else if (event.event === "presence") hearPresence(event);
  else if (event.event === "trouble") notify(event.text, "wrong");
  // Another show: nothing of this page belongs to it.
  else if (event.event === "opened" && event.id !== useShow.getState().id) location.reload();
}

/** The open show and all that is beside it. */
export async function loadAll(): Promise<void> {
  await load();
  await Promise.all([readSimulated(), readConsoles(), readJobs(), readDoctor(), readCapture(), readRun(), readSettling(), readFeed()]);
}

/** Keep the live socket open: with a fresh ticket each time, also after desk or live process were restarted. */
export async function stayConnected(): Promise<void> {
  try {
    const { url, ticket } = await get("/api/shows/{show}/ticket", at());
    const reader = new FrameReader();
    const opened = new WebSocket(`${url}?ticket=${ticket}`);
    opened.binaryType = "arraybuffer";
    opened.onopen = () => {
      wait = 250;
      socket = opened;
      useLink.setState({ connected: true });
      watchLevels(useLink.getState().watching, useLink.getState().monitors);
      // What happened while nobody listened.
      if (opens++ > 0) void loadAll().catch(() => undefined);
    };
    opened.onmessage = (message: MessageEvent<string | ArrayBuffer>) => {
      if (typeof message.data === "string") return hear(JSON.parse(message.data) as Event);
      const read = reader.read(message.data, scaling);
      if (read.kind === "frame") deliver("live", read.values, read.left);
      else if (read.kind === "poses") hearPoses(read.plan, read.values);
      else if (read.kind === "lasers") hearPaths(read.plan, read.paths);
      else if (read.kind === "levels" && read.universe === useLink.getState().watching) {
        useLink.setState({ levels: read.levels });
      }
    };
    opened.onclose = () => {
      if (socket === opened) socket = null;
      useLink.setState({ connected: false });
      again();
    };
  } catch {
    useLink.setState({ connected: false });
    again();
  }
}

function again(): void {
  setTimeout(() => void stayConnected(), wait);
  wait = Math.min(wait * 1.6, 3000);
}

/** Ask for the levels of one universe, or of none; `monitor`: also what moves and who wins, `anew`: from now on. */
export function watchLevels(universe: number | null, monitor = false, anew = false): void {
  useLink.setState({ watching: universe, monitors: monitor, ...(universe === null ? { levels: null } : {}) });
  if (socket?.readyState === WebSocket.OPEN) socket.send(JSON.stringify({ watch: universe, monitor, anew }));
}

/** What stands elsewhere in a look than it may just now: its carriers, and what drivers move, with all on them. */
export function fetchLookStand(look: string, driven = true): Promise<LookStand> {
  return get("/api/shows/{show}/looks/{thing}/stand", { params: { path: { ...at().params.path, thing: look }, query: { driven } } });
}

/** The same as the stage takes it. */
export const standing = (stand: LookStand): Stand => ({ solids: stand.solids as Solid[], mounts: Object.entries(stand.mounts).map(([id, place]) => ({ id, ...place })) });

/** Fetch the picture of a look by itself, for a pane that compares. */
export async function fetchLookPicture(look: string): Promise<void> {
  const data = await getBytes(`/api/shows/${useShow.getState().id}/looks/${look}/frame`);
  const read = new FrameReader().read(data, scaling);
  if (read.kind === "frame") deliver(look, read.values);
}
