import { getBytes, sendFile } from "./api";
import { applyUpdate, useShow, who } from "./document";
import { refused } from "./messages";
import { runTime, useRun } from "./run";

/** Sounds that were fetched and read, by their asset. */
const read = new Map<string, Promise<AudioBuffer>>();
let context: AudioContext | null = null;
const speaker = (): AudioContext => (context ??= new AudioContext());

/** The sound of an asset, as the browser reads it. */
export function fetchSound(asset: string): Promise<AudioBuffer> {
  let found = read.get(asset);
  if (!found) {
    found = getBytes(`/api/sounds/${asset}`).then((bytes) => speaker().decodeAudioData(bytes));
    read.set(asset, found);
    void found.catch(() => read.delete(asset));
  }
  return found;
}

/** Lay a sound file under a running order. */
export async function laySound(order: string, file: File): Promise<void> {
  try {
    const result = await sendFile("/api/shows/{show}/orders/{thing}/sound", { show: useShow.getState().id, thing: order }, file, `?who=${encodeURIComponent(who)}`);
    if (result.update) applyUpdate(result.update);
  } catch (wrong) {
    refused(wrong);
  }
}

/** The loudest of each of `count` equal stretches of samples, 0 to 1. */
export function peaksOf(samples: Float32Array, count: number): number[] {
  const size = samples.length / count;
  return Array.from({ length: count }, (_, i) => {
    let most = 0;
    for (let k = Math.floor(i * size); k < Math.min(Math.ceil((i + 1) * size), samples.length); k++) most = Math.max(most, Math.abs(samples[k] as number));
    return most;
  });
}

const APART_S = 0.12;

/** Let a sound go with the running order: it plays where that plays, and is brought back where they have come apart. */
export function follow(buffer: AudioBuffer, from: number): () => void {
  let source: AudioBufferSourceNode | null = null;
  let begun = { at: 0, when: 0, speed: 1 };
  const stop = () => {
    source?.stop();
    source = null;
  };
  const look = () => {
    const { run } = useRun.getState();
    const to = runTime() - from;
    const plays = run.playing && !run.waiting && to >= 0 && to < buffer.duration;
    if (!plays) return stop();
    const now = begun.at + (speaker().currentTime - begun.when) * begun.speed;
    if (source && begun.speed === run.speed && Math.abs(now - to) < APART_S) return;
    stop();
    source = speaker().createBufferSource();
    source.buffer = buffer;
    source.playbackRate.value = run.speed;
    source.connect(speaker().destination);
    begun = { at: to, when: speaker().currentTime, speed: run.speed };
    source.start(0, to);
    void speaker().resume();
  };
  const timer = window.setInterval(look, 100);
  const told = useRun.subscribe(look);
  return () => {
    window.clearInterval(timer);
    told();
    stop();
  };
}
