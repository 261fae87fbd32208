"""The picture as a person sets and reads it: quality, exposure, labels, measuring, panes, heads that travel."""

from __future__ import annotations

import numpy as np
import pytest
from selenium.webdriver.common.by import By

from tests.browser.test_frame import press_keys
from tests.processes import wait_for


def by_number(program, number):
    return next(row["id"] for row in program.document()["objects"] if row["body"].get("number") == number)


@pytest.mark.timeout(300)
def test_the_picture_is_set_in_its_panel(program, person):
    person.open(program.url, scale=0.1, quality="")
    press_keys(person, "e")
    person.says("How it is drawn here, and how it is taken")
    person.press("Air")
    person.says("Shafts in the haze as well.")
    wait_for(lambda: person.settle()["step"] == "Air", "the picture to be drawn with shafts")
    wait_for(lambda: "Air · EV " in person.foot() and " by look" in person.foot(), "the status line to say so")
    # The eye finds its own exposure by what is lit, and the status line follows it.
    person.type("Exposure, EV", "9.5", enter=True)
    wait_for(lambda: "EV 9.5 by look" in person.foot(), "the exposure that was typed")
    person.click('//label[contains(., "The eye adapts")]', "the eye")
    wait_for(lambda: "EV 9.5" not in person.foot() and "by look" not in person.foot(), "another EV")
    person.click('//label[contains(., "The eye adapts")]', "the eye")
    wait_for(lambda: "EV 9.5 by look" in person.foot(), "the eye to be set again")
    # A look brings the exposure that suits it, unless that is locked: then it is said.
    ebb = next(row for row in program.document()["objects"] if row["body"].get("name") == "Ebb")
    program.edit("play look", id=ebb["id"])
    wait_for(lambda: f"EV {ebb['body']['exposure_ev']:.1f} by look" in person.foot(), "the look's exposure")
    person.type("Exposure, EV", "12", enter=True)
    person.click('//label[contains(., "Locked: looks leave it as it is")]', "the lock")
    wait_for(lambda: "EV 12.0 locked" in person.foot(), "the exposure to be locked")
    said = program.edit("play look", id=ebb["id"])["report"]
    assert said[-1].startswith("The exposure is locked at EV 12.0, and Ebb would be seen at EV")
    wait_for(lambda: "EV 12.0 locked" in person.foot(), "the exposure to stay")
    # Off scale: said in the pane as well.
    person.type("Shafts", "2.5", enter=True)
    off = '//main//*[contains(text(), "off scale")]'
    wait_for(lambda: len(person.driver.find_elements(By.XPATH, off)) == 1, "the pane to say so, once")
    person.press("Test what this machine carries")
    lines = wait_for(
        lambda: person.driver.find_elements(By.CSS_SELECTOR, "[data-part=forecasts] > div"), "the forecasts", 120
    )
    assert [line.text.split("\n")[0] for line in lines[:4]] == ["Build", "Air", "Pattern", "Depth"]
    assert "fps" in lines[0].text
    # The choice of quality stays with this browser.
    person.driver.refresh()
    wait_for(lambda: person.settle()["step"] == "Air", "Air again")


def its_numbers_stand_where_they_belong(person):
    """On bodies, and where beams land."""
    assert person.settle()["labels"] == 0
    press_keys(person, "l")
    bodies = wait_for(lambda: person.settle()["labels"], "numbers on bodies")
    press_keys(person, "l")
    wait_for(lambda: person.settle()["labels"] > bodies, "numbers where beams land")
    press_keys(person, "l")
    wait_for(lambda: person.settle()["labels"] == 0, "no numbers")


def it_is_measured(person):
    """Lux and distance under the pointer; a length between two clicks."""
    person.settle()
    person._at(person.stage("where", "main", [1.2, 3.6, 1.1])).perform()
    wait_for(lambda: " lx · " in person.foot() and " m away" in person.foot(), "lux and distance")
    press_keys(person, "m")
    person.says("Measure: click a place")
    person.click_place([-3.0, 1.0, 1.1], "side")
    person.click_place([2.0, 1.0, 1.1], "side")
    measured = wait_for(lambda: person.driver.execute_script(
        "const m = window.zarfwrightStage.tools.measure.measured; return m && m.done ? m.from.distanceTo(m.to) : null"
    ), "a length")  # fmt: skip
    assert measured == pytest.approx(5.0, abs=0.1)
    wait_for(lambda: f"Measured {measured:.2f} m" in person.foot(), "the status line to say it")
    press_keys(person, "m")
    wait_for(lambda: "Snap" in person.foot(), "the tool to be put away")


def its_panes_show_every_side(program, person):
    """Lit, unlit or as lines; only what has changed is drawn."""
    for words, view in (("Back", "back"), ("Section", "section"), ("Plan", "plan")):
        person.pick("View of the side pane", words)
        wait_for(lambda view=view: person.settle()["panes"][1]["view"] == view, words)
    person.pick("Shading in the main pane", "unlit")
    wait_for(lambda: person.settle()["panes"][0]["shade"] == "unlit", "the unlit shade")
    at = person.stage("where", "main", [-4.5, 2.0, 1.1])
    unlit = sum(person.stage("pixels", "main", at["x"], at["y"]))
    assert unlit > 90, "unlit, the dark deck can be read"
    person.pick("Shading in the main pane", "lit")
    wait_for(lambda: person.settle()["panes"][0]["shade"] == "lit", "the lit shade")
    # A look without wheels that turn, so that nothing moves by itself; then one pane is looked round in.
    ebb = next(row["id"] for row in program.document()["objects"] if row["body"].get("name") == "Ebb")
    program.edit("play look", id=ebb)
    wait_for(lambda: person.driver.execute_script(
        "return window.zarfwrightStage.state.moves('live') === null"
    ), "nothing to move by itself")  # fmt: skip
    person.settle()
    drawn = person.driver.execute_async_script(
        """const done = arguments[0], s = window.zarfwrightStage, light = s.drawing.light, steps = light.steps;
        const seen = [];
        light.steps = (shot) => { seen.push(shot.shade); return steps.call(light, shot); };
        const view = s.viewpoint("main");
        s.setViewpoint("main", { ...view, eye: view.eye.clone().add({ x: 0.3, y: 0, z: 0 }) });
        const look = () => s.report().settled ? (light.steps = steps, done(seen)) : setTimeout(look, 20);
        setTimeout(look, 20);"""
    )
    assert drawn
    assert set(drawn) == {"lit"}, "the plan has not changed, and is not drawn"


def it_says_where_a_beam_lands(program, person):
    """With lux and the field's size; its shadow can be pinned."""
    person.go("Aim")
    person.press("As a table")
    person.row("62")
    person.says("Where it lands")
    landing = wait_for(
        lambda: person.driver.find_elements(By.CSS_SELECTOR, "[data-part=landing]"), "where the beam lands"
    )[0]
    wait_for(lambda: "Main deck" in landing.text and " lx" in landing.text and "mean" in landing.text, "its figures")
    press_keys(person, "e")
    person.press("Always of 1 selected fixture")
    person.says("Of 1 fixture always")
    pinned = "return [...window.zarfwrightStage.drawing.light.shadows.pinned]"
    assert person.driver.execute_script(pinned) == [by_number(program, 62)]
    person.press("Of none")
    wait_for(lambda: person.driver.execute_script(pinned) == [], "no shadow to be pinned")


def a_head_takes_the_time_of_a_real_one(program, person):
    """By the server's clock, frame by frame."""
    heron = by_number(program, 61)
    program.edit("hold values", ids=[heron], values={"pan": -2.0, "tilt": 0.5})
    wait_for(lambda: abs(pan(person, heron) + 2.0) < 0.01, "61 to be there")
    seen = person.driver.execute_async_script(
        """const [id, url, done] = arguments, s = window.zarfwrightStage, seen = [];
        const row = s.state.rowOf(id), set = s.setFrame.bind(s);
        s.setFrame = (picture, values, left) => {
          set(picture, values, left);
          if (picture === "live") seen.push([left, s.state.field(row, "live", "pan")]);
        };
        const headers = { "Content-Type": "application/json" };
        fetch(url, { method: "POST", headers, body: JSON.stringify(
          { kind: "hold values", args: { ids: [id], values: { pan: 2.0 } }, who: "tester" }) });
        const there = () => seen.length && Math.abs(seen[seen.length - 1][1] - 2) < 0.001;
        const look = () => there() ? done(seen) : setTimeout(look, 30);
        look();""",
        heron,
        f"/api/shows/{program.show}/edits",
    )
    times, pans = np.array(seen).T
    # On its last hundredth it may still have been on its way there when it was sent back.
    turned = int(pans.argmin())
    times, pans = times[turned:], pans[turned:]
    speed = np.radians(540) / 3.2
    moving = (pans > -1.5) & (pans < 1.5)
    assert np.count_nonzero(moving) > 8, "many frames on the way"
    assert np.all(np.diff(pans) > -2e-4), "it does not overshoot"
    # By the server's clock, whatever frames the browser had time for.
    rates = np.diff(pans[moving]) / np.diff(times[moving])
    assert np.median(rates) == pytest.approx(speed, rel=0.1)


@pytest.mark.timeout(300)
def test_the_picture_is_read(program, person):
    person.open(program.url)
    its_numbers_stand_where_they_belong(person)
    it_is_measured(person)
    a_head_takes_the_time_of_a_real_one(program, person)
    it_says_where_a_beam_lands(program, person)
    its_panes_show_every_side(program, person)


def pan(person, fixture):
    return person.driver.execute_script(
        "const s = window.zarfwrightStage.state; return s.field(s.rowOf(arguments[0]), 'live', 'pan')", fixture
    )


@pytest.mark.timeout(240)
def test_left_alone_the_picture_becomes_smoother_and_begins_again_when_it_moves(program, person):
    person.driver.set_script_timeout(200)
    # A look without wheels that turn, and haze without clouds that drift: what moves is not mixed.
    program.edit("set show", haze_uneven=0.0)
    ebb = next(row for row in program.document()["objects"] if row["body"].get("name") == "Ebb")
    program.edit("play look", id=ebb["id"])
    person.open(program.url, quality="", rests=False)
    found = person.driver.execute_async_script(
        """const done = arguments[0], s = window.zarfwrightStage, d = s.drawing, gl = d.renderer.getContext();
        const pane = s.layout()[0], ratio = d.renderer.getPixelRatio(), seen = [];
        const [w, h] = [Math.floor(pane.width * ratio), Math.floor(pane.height * ratio)];
        const read = () => {
          const data = new Uint8Array(w * h * 4);
          d.renderer.setRenderTarget(null);
          gl.readPixels(0, 0, w, h, gl.RGBA, gl.UNSIGNED_BYTE, data);
          return data;
        };
        const away = (a, b) => Math.sqrt(a.reduce((sum, one, i) => sum + (one - b[i]) ** 2, 0) / a.length);
        const look = async () => {
          if (d.polished === 1 && !seen[0]) seen[0] = read();
          if (d.polished === 5 && !seen[1]) seen[1] = read();
          if (d.polished < d.polish.most || !seen[1]) return requestAnimationFrame(look);
          seen[2] = read();
          const still = await createImageBitmap(await s.snapshot("main", w, h, { samples: 16 }));
          const pen = new OffscreenCanvas(w, h).getContext("2d");
          pen.translate(0, h);
          pen.scale(1, -1);
          pen.drawImage(still, 0, 0);
          const wanted = pen.getImageData(0, 0, w, h).data;
          done([away(seen[0], seen[2]), away(seen[1], seen[2]), away(seen[0], wanted), away(seen[2], wanted)]);
        };
        // However slow the machine is. From the beginning, wherever it is now.
        d.polish.ms = 1e6;
        d.polish.most = 9;
        s.invalidate();
        look();"""
    )
    # Five are nearer to all nine than the first is, and all are much nearer to a still.
    assert found[1] < 0.9 * found[0], found
    assert found[3] < 0.7 * found[2], found
    person.stage("lookFrom", "main", [4.0, -12.0, 3.0], [0.0, 2.0, 3.0])
    mixed = "return window.zarfwrightStage.drawing.polished"
    assert person.driver.execute_script(mixed) <= 1
    wait_for(lambda: person.driver.execute_script(mixed) > 1, "the new picture to become smoother")
    # A change that has had to wait is shown coarsely first all the same.
    steps = person.driver.execute_async_script(
        """const done = arguments[0], s = window.zarfwrightStage, d = s.drawing, seen = [];
        s.invalidate();
        d.governor.rest(4000, performance.now());
        const look = () => {
          if (d.job && d.job.began > from && seen.at(-1) !== d.job.moving) seen.push(d.job.moving);
          if (seen.length < 2) requestAnimationFrame(look);
          else done(seen);
        };
        const from = performance.now();
        look();"""
    )
    assert steps == [True, False]
