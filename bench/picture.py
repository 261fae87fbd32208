"""What a picture of the demo costs in software: passes one by one, and how soon one sees it.

`python -m bench.picture` drives headless Chromium at 1280x800 over the whole demo: each pass at Build and Depth
(972x513, median of three), then *auto*: the first picture after a drag begins, pictures a second while it goes on, and
how long it takes at rest until all is drawn at Depth.
"""

from __future__ import annotations

import json
import statistics
import tempfile
from pathlib import Path
from typing import Any

from tests.browser.person import Person
from tests.processes import Program, wait_for

VIEW = ([6.4, -17.0, 4.4], [-0.5, 2.0, 3.3])
PASSES = """
const [width, height, step, done] = arguments, s = window.zarfwrightStage, d = s.drawing, light = d.light;
d.busy = true;
d.putAside();
const gl = d.renderer.getContext();
// Reading a texel waits for the graphics processor.
const wait = () => {
  const form = gl.getParameter(gl.IMPLEMENTATION_COLOR_READ_FORMAT);
  const type = gl.getParameter(gl.IMPLEMENTATION_COLOR_READ_TYPE);
  if (form === gl.RGBA_INTEGER) gl.readPixels(0, 0, 1, 1, form, gl.UNSIGNED_INT, new Uint32Array(4));
  else if (type === gl.UNSIGNED_BYTE) gl.readPixels(0, 0, 1, 1, gl.RGBA, type, new Uint8Array(4));
  else gl.readPixels(0, 0, 1, 1, gl.RGBA, gl.FLOAT, new Float32Array(4));
};
const pane = s.layout()[0], frames = [];
let at = 0, took = {};
light.passes.watch = (pass) => {
  wait();
  const now = performance.now();
  took[pass] = (took[pass] || 0) + now - at;
  at = now;
};
for (let k = 0; k < 4; k++) {
  pane.camera.position.x += 0.02;
  pane.camera.updateMatrixWorld();
  took = {};
  at = performance.now();
  const shot = d.shotOf(pane, 1, window.zarfwrightBench.QUALITIES[step], at, true);
  light.draw({ ...shot, x: 0, y: 0, width, height });
  if (k > 0) frames.push(took);
}
light.passes.watch = null;
d.busy = false;
done(frames);
"""
DRAG = """
const [seconds, done] = arguments, s = window.zarfwrightStage, d = s.drawing, from = performance.now(), at = [];
let seen = d.frames;
const drag = () => {
  const now = performance.now();
  if (d.frames !== seen) { seen = d.frames; at.push(now - from); }
  if (now - from < seconds * 1000) {
    const view = s.viewpoint("main");
    s.setViewpoint("main", { ...view, eye: view.eye.clone().add({ x: 0.02, y: 0, z: 0 }) });
    return requestAnimationFrame(drag);
  }
  const rest = () => {
    if (d.drawn === "Depth" && d.share === 1 && s.report().settled) {
      const rate = (at.length - 1) / ((at[at.length - 1] - at[0]) / 1000);
      done({ first: at[0], rate, rest: performance.now() - now });
    } else requestAnimationFrame(rest);
  };
  rest();
};
drag();
"""


def _person(program: Program, folder: str, query: str) -> Person:
    person = Person(Path(folder))
    person.driver.set_script_timeout(280)
    person.driver.get(f"{program.url}/?{query}")
    wait_for(lambda: (person.report() or {}).get("frames"), "the first frame", 120)
    person.beams_until(lambda beams: len(beams) == 96, "the beams")
    person.stage("lookFrom", "main", *VIEW)
    wait_for(lambda: person.report()["settled"], "the picture", 120)
    return person


def main() -> int:
    """Print the figures."""
    with tempfile.TemporaryDirectory() as folder:
        program = Program(Path(folder) / "demo.zarf", whole=True)
        program.edit("set show", work_light_lx=0.0)
        try:
            person = _person(program, folder, "scale=1.0&quality=Build")
            for step in ("Build", "Depth"):
                frames: list[dict[str, Any]] = person.driver.execute_async_script(PASSES, 972, 513, step)
                passes = {name: round(statistics.median(f.get(name, 0.0) for f in frames)) for name in frames[0]}
                print(step, json.dumps({**passes, "all": sum(passes.values())}), flush=True)
            person.close()
            person = _person(program, folder, "scale=1.0")
            # Once to make programs ready, then three drags.
            person.driver.execute_async_script(DRAG, 2)
            drags = [person.driver.execute_async_script(DRAG, 4) for _ in range(3)]
            for name in ("first", "rate", "rest"):
                print(f"auto, {name}", round(statistics.median(d[name] for d in drags), 2), flush=True)
            person.close()
        finally:
            program.end()
    return 0


if __name__ == "__main__":
    raise SystemExit(main())
