/** Words of ours, each in a sentence: said where the pointer rests on them, in whatever card or list they stand. */
const TERMS: Record<string, string> = {
  carrier: "Carrier: one handle for several things; moved or turned, all that is on it goes along",
  driver: "Driver: what lets a console move a carrier, or one thing, by channels of its own",
  drivers: "Drivers: what lets a console move carriers, or single things, by channels of their own",
  pivot: "Pivot: the place of a carrier, which it is moved by and turned about",
  rail: "Rail: a line of a structure that fixtures are clamped to",
  rails: "Rails: the lines of a structure that fixtures are clamped to",
  viewpoint: "Viewpoint: a place to look from that is kept by name",
  viewpoints: "Viewpoints: places to look from that are kept by name",
  crowd: "Crowd: an area filled with people, who are made again when it changes",
  crowds: "Crowds: areas filled with people, who are made again when they change",
  look: "Look: the whole picture kept by number and name, to be recalled and reviewed",
  looks: "Looks: whole pictures kept by number and name, to be recalled and reviewed",
  unit: "Unit: the number on its structure, as it is counted there",
  circuit: "Circuit: what it is plugged to",
  dimmer: "Dimmer: what feeds and dims it, by its number in its rack",
  steady: "Steady power: a dimmer that only switches, for what dims itself",
  attitude: "Attitude: how it hangs on its rail: on which side, turned how far, out or down by how much",
  dice: "Dice: another number throws the same crowd anew: other places, turns and clothes",
  fullness: "Fullness: how much more cloth there is than it hangs wide; 0.5 is half as much again",
  trim: "Trim: how high the lower rails of a structure hang over the datum",
  datum: "Datum: the height and the lines that all places are counted from",
  datums: "Datums: the centre line, the setting line and the height that all places are counted from",
  bridle: "Bridle: two legs that a point is hung from, each to a steel beside it",
  points: "Points: the hoists that a structure hangs from",
  haze: "Haze: what the air scatters, as a share of the light in each metre; 0.015 is a usual hall",
  bloom: "Bloom: the glow round what is very bright, as an eye or a lens has it; 1 is true",
  shafts: "Shafts: beams seen in the haze",
  pools: "Pools: beams where they land",
  "work light": "Work light: even light to build by, no part of the show",
  "house light": "House light: the lights over the audience, no part of the show",
  layer: "Layer: what is on it can be hidden, locked and taken all at once",
  layers: "Layers: what is on one can be hidden, locked and taken all at once",
  restore: "Restore point: the show as it was then, kept by name, to be gone back to",
  spacing: "Spacing: as it is, a given step, or spread to fill the line",
  ends: "Ends: the outermost on the ends, half a step in from them, or a margin in",
  "gives back": "Gives back: the share of light that it gives back, diffusely: 0.05 black cloth, 0.4 timber, 0.8 white paint",
  guide: "Guide line: a line, ring, grid or rail that things are arranged on",
  "sharp at": "Sharp at: how far from its lens what stands in the gate is sharp; nearer and further it blurs, as behind a real lens",
  lamp: "Lamp: what burns in it, by power, flux in lumens and colour in kelvin; with power alone the flux goes with it",
  cells: "Cells: the lenses of one fixture, counted from 1; values go to all of them, or to those that are picked",
  gap: "Gap: slots left free between one fixture and the next",
};
const WORDS = new RegExp(`\\b(${Object.keys(TERMS).sort((a, b) => b.length - a.length).join("|")})\\b`, "i");

/** What is said of the first of our words in a label; nothing where there is none. */
export function explained(label: string): string | undefined {
  const found = WORDS.exec(label)?.[1]?.toLowerCase();
  return found === undefined ? undefined : TERMS[found];
}
