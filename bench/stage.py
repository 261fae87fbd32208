"""What a frame of the stage costs in the browser, by the number of fixtures, beside a plain forward renderer.

`python -m bench.stage` drives headless Chromium with 16, 100, 500 and 3,000 fixtures, all lit: script time and draw
calls a frame, and the frame in software rendering at 960x540 (500 and 3,000 at a sixteenth of the pixels, scaled up).
"""

from __future__ import annotations

import functools
import http.server
import json
import tempfile
import threading
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path
from typing import Any

from selenium.common.exceptions import WebDriverException

from tests.browser.person import Person
from tests.processes import Program, wait_for
from zarfwright.demo.large import build_large

ROOT = Path(__file__).resolve().parents[1]
COUNTS = (16, 100, 500, 3000)
VIEW = ([10, -34, 9], [0, 0, 3])
WHOLE, SMALL = (960, 540), (240, 135)

MEASURE = """
const [width, height, step, frames, done] = arguments, s = window.zarfwrightStage, d = s.drawing;
const { QUALITIES } = window.zarfwrightBench;
d.busy = true;
d.putAside();
const gl = d.renderer.getContext(), pixel = new Uint8Array(4), times = [], script = [];
const pane = s.layout()[0];
for (let k = 0; k < frames; k++) {
  // The view turns a little, so that nothing can be left as it was.
  pane.camera.position.x += 0.02;
  pane.camera.updateMatrixWorld();
  const from = performance.now();
  d.renderer.info.reset();
  d.light.draw({ ...d.shotOf(pane, 1, QUALITIES[step], from, false), x: 0, y: 0, width, height });
  script.push(performance.now() - from);
  d.renderer.setRenderTarget(null);
  gl.readPixels(0, 0, 1, 1, gl.RGBA, gl.UNSIGNED_BYTE, pixel);
  times.push(performance.now() - from);
}
d.busy = false;
const median = (list) => list.slice(1).sort((a, b) => a - b)[(list.length - 1) >> 1];
done({ script: median(script), frame: median(times), drawCalls: d.renderer.info.render.calls });
"""


@contextmanager
def _files() -> Iterator[str]:
    """The forward renderer's page and the library, over the loopback."""

    class Quiet(http.server.SimpleHTTPRequestHandler):
        def log_message(self, *_: Any) -> None:
            pass

        def translate_path(self, path: str) -> str:
            folder = ROOT / ("frontend" if path.startswith("/node_modules/") else "bench")
            return str(folder / path.lstrip("/").split("?")[0])

    server = http.server.ThreadingHTTPServer(("127.0.0.1", 0), functools.partial(Quiet))
    threading.Thread(target=server.serve_forever, daemon=True).start()
    try:
        yield f"http://127.0.0.1:{server.server_port}/forward.html"
    finally:
        server.shutdown()


def _forward(count: int) -> dict[str, Any]:
    """The forward renderer with a light object for each fixture."""
    with tempfile.TemporaryDirectory() as folder, _files() as url:
        person = Person(Path(folder))
        try:
            person.driver.set_script_timeout(240)
            person.driver.get(url)
            wait_for(lambda: person.driver.execute_script("return !!window.measure"), "the forward renderer")
            result: dict[str, Any] = person.driver.execute_async_script(
                "window.measure(arguments[0]).then(arguments[1], (e) => arguments[1]({failed: true, why: String(e)}))",
                count,
            )
            return result
        except WebDriverException as wrong:
            return {"failed": True, "why": str(wrong.msg)[:80]}
        finally:
            person.close()


def _stage(count: int) -> dict[str, Any]:
    """Our stage with as many fixtures, and a person for each."""
    with tempfile.TemporaryDirectory() as folder:
        show = Path(folder) / "large.zarf"
        build_large(show, count, min(count, 3000))
        program = Program(show, demo=False)
        person = Person(Path(folder))
        try:
            person.driver.set_script_timeout(280)
            person.driver.get(f"{program.url}/?scale=0.05&quality=Build")
            wait_for(lambda: (person.report() or {}).get("frames"), "the first frame", 120)
            wait_for(
                lambda: person.driver.execute_script(
                    """const s = window.zarfwrightStage;
                    return s.state.count && s.solids.version > 0 && s.state.pictures.has('live');"""
                ),
                "the rig",
                120,
            )
            # From the house, as the forward renderer looks as well.
            person.stage("lookFrom", "main", *VIEW)
            figures = {}
            for step in ("Build", "Depth"):
                size, scale = (WHOLE, 1.0) if count <= 100 else (SMALL, 16.0)
                # Script alone at the smallest size: it does not depend on pixels.
                script = person.driver.execute_async_script(MEASURE, 32, 18, step, 30)
                frame = person.driver.execute_async_script(MEASURE, *size, step, 3)
                figures[step] = {
                    "script_ms": round(script["script"], 2),
                    "draw_calls": script["drawCalls"],
                    "frame_s": round(frame["frame"] * scale / 1000, 2),
                    "scaled": scale != 1.0,
                }
            return figures
        finally:
            person.close()
            program.end()


def main() -> int:
    """Print the figures as JSON."""
    figures = {}
    for count in COUNTS:
        figures[str(count)] = {"stage": _stage(count), "forward": _forward(count)}
        print(count, json.dumps(figures[str(count)]), flush=True)
    print(json.dumps(figures, indent=1))
    return 0


if __name__ == "__main__":
    raise SystemExit(main())
