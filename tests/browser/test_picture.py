"""The picture as a person sets and uses it: quality, exposure, labels, measuring, panes, heads that travel, stills."""

from __future__ import annotations

import numpy as np
import pytest
from PIL import Image
from selenium.webdriver.common.by import By

from tests.browser.test_frame import press_keys
from tests.processes import wait_for


def settings(program):
    return next(row["body"] for row in program.document()["objects"] if row["kind"] == "show")


def foot(person):
    return person.foot()


def by_number(program, number):
    return next(row["id"] for row in program.document()["objects"] if row["body"].get("number") == number)


@pytest.mark.timeout(240)
def test_quality_exposure_and_strength_are_set_in_the_pictures_panel(program, person):
    person.open(program.url)
    press_keys(person, "e")
    person.says("How it is drawn here, and how it is taken")
    person.press("Air")
    person.says("Shafts in the haze as well.")
    wait_for(lambda: person.settle()["step"] == "Air", "the picture to be drawn with shafts")
    wait_for(lambda: "Air · EV " in foot(person) and " by look" in foot(person), "the status line to say so")
    # What cannot be is refused where it was typed; what can be is an edit like any other.
    person.type("Haze, 1/m", "7", enter=True)
    person.says("The haze per m cannot be 7: type at most 1.")
    person.type("Haze, 1/m", "0.02", enter=True)
    wait_for(lambda: settings(program)["haze_per_m"] == 0.02, "the haze")
    person.press("Camera")
    person.type("ISO", "400", enter=True)
    person.type("Time", "1/100", enter=True)
    person.type("Aperture, f/", "f/4", enter=True)
    wait_for(lambda: (settings(program)["iso"], settings(program)["aperture"]) == (400, 4.0), "the camera")
    person.says("comes to EV 8.6")
    wait_for(lambda: "camera" in foot(person), "the status line to name the camera")
    person.press("Dusk")
    wait_for(lambda: settings(program)["exposure_kind"] == "eye" and settings(program)["exposure_ev"] == 9.5, "dusk")
    # The eye finds its own exposure by what is lit, and the status line follows it.
    person.click('//label[contains(., "The eye adapts")]', "the eye")
    wait_for(lambda: settings(program)["eye_adapts"], "the eye to adapt")
    wait_for(lambda: "EV 9.5" not in foot(person) and "by look" not in foot(person), "another EV", 40)
    person.click('//label[contains(., "The eye adapts")]', "the eye")
    wait_for(lambda: "EV 9.5 by look" in foot(person), "the eye to be set again")
    # A look brings the exposure that suits it, unless that is locked: then it is said.
    ebb = next(row for row in program.document()["objects"] if row["body"].get("name") == "Ebb")
    program.edit("play look", id=ebb["id"])
    wait_for(lambda: f"EV {ebb['body']['exposure_ev']:.1f} by look" in foot(person), "the look's exposure")
    person.type("Exposure, EV", "12", enter=True)
    person.click('//label[contains(., "Locked: looks leave it as it is")]', "the lock")
    wait_for(lambda: "EV 12.0 locked" in foot(person), "the exposure to be locked")
    said = program.edit("play look", id=ebb["id"])["report"]
    assert said[-1].startswith("The exposure is locked at EV 12.0, and Ebb would be seen at EV")
    wait_for(lambda: "EV 12.0 locked" in foot(person), "the exposure to stay")
    # Off scale: said in the pane, the panel and the status line, until it is set back.
    person.type("Shafts", "2.5", enter=True)
    person.says("Off scale: the picture is not true")
    off = '//main//*[contains(text(), "off scale")]'
    wait_for(lambda: len(person.driver.find_elements(By.XPATH, off)) == 1, "the pane to say so, once")
    wait_for(lambda: "off scale" in foot(person), "the status line to say so")
    person.click('//button[contains(., "Off scale")]', "the way back")
    wait_for(lambda: settings(program)["shaft_gain"] == 1, "the true strength")
    person.press("Back to the card")
    person.says("Add to the site")
    # The choice of quality stays with this browser.
    person.driver.refresh()
    wait_for(lambda: person.settle()["step"] == "Air", "Air again")


@pytest.mark.timeout(240)
def test_numbers_stand_on_bodies_and_where_beams_land_without_lying_over_each_other(program, person):
    person.open(program.url)
    assert person.settle()["labels"] == 0
    press_keys(person, "l")
    bodies = wait_for(lambda: person.settle()["labels"], "numbers on bodies")
    press_keys(person, "l")
    wait_for(lambda: person.settle()["labels"] > bodies, "numbers where beams land")
    press_keys(person, "l")
    wait_for(lambda: person.settle()["labels"] == 0, "no numbers")


@pytest.mark.timeout(240)
def test_the_pointer_reads_lux_and_distance_and_two_clicks_measure(program, person):
    person.open(program.url)
    person.settle()
    person._at(person.stage("where", "main", [1.2, 3.6, 1.1])).perform()
    wait_for(lambda: " lx · " in foot(person) and " m away" in foot(person), "lux and distance")
    press_keys(person, "m")
    person.says("Measure: click a place")
    person.click_place([-3.0, 1.0, 1.1], "side")
    person.click_place([2.0, 1.0, 1.1], "side")
    measured = wait_for(lambda: person.driver.execute_script(
        "const m = window.zarfwrightStage.tools.measure.measured; return m && m.done ? m.from.distanceTo(m.to) : null"
    ), "a length")  # fmt: skip
    assert measured == pytest.approx(5.0, abs=0.1)
    wait_for(lambda: f"Measured {measured:.2f} m" in foot(person), "the status line to say it")
    press_keys(person, "m")
    wait_for(lambda: "Snap" in foot(person), "the tool to be put away")


@pytest.mark.timeout(240)
def test_panes_show_every_side_lit_unlit_or_as_lines_and_only_what_changed_is_drawn(program, person):
    person.open(program.url)
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


@pytest.mark.timeout(240)
def test_a_head_takes_the_time_of_a_real_one(program, person):
    person.open(program.url)
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
    speed = np.radians(540) / 3.2
    moving = (pans > -1.5) & (pans < 1.5)
    assert np.count_nonzero(moving) > 8, "many frames on the way"
    assert np.all(np.diff(pans) > -2e-4), "it does not overshoot"
    # By the server's clock, whatever frames the browser had time for.
    rates = np.diff(pans[moving]) / np.diff(times[moving])
    assert np.median(rates) == pytest.approx(speed, rel=0.1)


def pan(person, fixture):
    return person.driver.execute_script(
        "const s = window.zarfwrightStage.state; return s.field(s.rowOf(arguments[0]), 'live', 'pan')", fixture
    )


@pytest.mark.timeout(300)
def test_a_still_is_made_of_many_samples_and_can_be_stopped(program, person):
    person.open(program.url)
    person.go("Review")
    person.choose("Size", "540p")
    person.press("Make a still")
    person.press("Stop")
    person.says("The still was stopped; nothing was saved.", 60)
    assert not list(person.downloads.glob("*.png"))
    # Fewer samples than a person would take, for the test's time.
    person.driver.set_script_timeout(120)
    size = person.driver.execute_async_script(
        """const done = arguments[0], shares = [];
        window.zarfwrightStage.snapshot("main", 160, 90, { samples: 4, onProgress: (share) => shares.push(share) })
          .then(async (blob) => {
            const image = await createImageBitmap(blob);
            done([image.width, image.height, blob.size, shares]);
          });"""
    )
    assert size[:2] == [160, 90]
    assert size[2] > 4000
    assert size[3] == [0.25, 0.5, 0.75, 1.0]
    person.press("Save as PNG")
    picture = wait_for(lambda: next(iter(person.downloads.glob("*.png")), None), "the PNG", 60)
    assert wait_for(lambda: _size(picture), "the whole PNG") == (960, 540)


def _size(path):
    try:
        with Image.open(path) as image:
            image.load()
            return image.size
    except OSError:
        return None


@pytest.mark.timeout(300)
def test_the_self_test_forecasts_each_step(program, person):
    person.open(program.url, scale=0.1)
    press_keys(person, "e")
    person.press("Test what this machine carries")
    person.says("Testing Build")
    lines = wait_for(
        lambda: person.driver.find_elements(By.CSS_SELECTOR, "[data-part=forecasts] > div"), "the forecasts", 120
    )
    words = [line.text.split("\n")[0] for line in lines[:4]]
    assert words == ["Build", "Air", "Pattern", "Depth"]
    assert "fps" in lines[0].text


@pytest.mark.timeout(240)
def test_where_a_beam_lands_is_told_and_its_shadow_can_be_pinned(program, person):
    person.open(program.url)
    person.go("Aim")
    person.row("62")
    person.says("Where it lands")
    landing = wait_for(
        lambda: person.driver.find_elements(By.CSS_SELECTOR, "[data-part=landing]"), "where the beam lands"
    )[0]
    wait_for(lambda: "Main deck" in landing.text and " lx" in landing.text and "field" in landing.text, "its figures")
    press_keys(person, "e")
    person.press("Always of 1 selected fixture")
    person.says("Of 1 fixture always")
    pinned = "return [...window.zarfwrightStage.drawing.light.shadows.pinned]"
    assert person.driver.execute_script(pinned) == [by_number(program, 62)]
    person.press("Of none")
    wait_for(lambda: person.driver.execute_script(pinned) == [], "no shadow to be pinned")


@pytest.mark.timeout(240)
def test_two_looks_beside_each_other_have_their_carriers_each_where_it_keeps_them(program, person):
    truss = next(row["id"] for row in program.document()["objects"] if row["body"].get("name") == "Truss 1")
    lamp = by_number(program, 61)
    carrier = program.edit("make carrier", ids=[truss], name="Lift")["select"][0]
    values = {lamp: {"dimmer": 1.0}}
    low = program.edit("keep look", name="Low", values=values)["select"][0]
    program.edit("set field", ids=[carrier], field="z", text="-2m")
    high = program.edit("keep look", name="High", values=values)["select"][0]
    now = program.document()["mounts"][lamp]["position"][2]
    person.open(program.url)
    person.go("Review")
    person.choose("On the left", "4, Low")
    person.choose("On the right", "5, High")
    person.press("Show both from here")
    person.says("Lift: in each picture where its look has it.")

    def lens(pane):
        return person.beam(lamp, pane)["lens"][2]

    def pictures():
        return [pane["picture"] for pane in person.report()["panes"]]

    wait_for(lambda: pictures() == [low, high], "both looks")
    wait_for(lambda: lens(0) == pytest.approx(lens(1) + 2.0, abs=1e-3), "the truss to be higher on the left")
    assert program.document()["mounts"][lamp]["position"][2] == now, "nothing has been moved for that"
    # A carrier that is moved meanwhile moves in neither picture; the live one has it.
    program.edit("set field", ids=[carrier], field="z", text="+0.5m")
    wait_for(lambda: program.document()["mounts"][lamp]["position"][2] > now, "the carrier to move")
    wait_for(lambda: lens(0) == pytest.approx(lens(1) + 2.0, abs=1e-3), "both pictures to stay as they are")
    person.pick("Picture in the side pane", "as driven")
    # As driven its head is turned otherwise, and its lens with it.
    wait_for(lambda: lens(0) == pytest.approx(lens(1) + 1.5, abs=0.35), "the live picture to have it where it is")


@pytest.mark.timeout(240)
def test_left_alone_the_picture_becomes_smoother_and_begins_again_when_it_moves(program, person):
    person.driver.set_script_timeout(200)
    # A look without wheels that turn, and haze without clouds that drift: what moves is not mixed.
    program.edit("set show", haze_uneven=0.0)
    ebb = next(row for row in program.document()["objects"] if row["body"].get("name") == "Ebb")
    program.edit("play look", id=ebb["id"])
    person.driver.get(f"{program.url}/?scale=0.25")
    person.settle()
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
          const still = await createImageBitmap(await s.snapshot("main", w, h, { samples: 24 }));
          const pen = new OffscreenCanvas(w, h).getContext("2d");
          pen.translate(0, h);
          pen.scale(1, -1);
          pen.drawImage(still, 0, 0);
          const wanted = pen.getImageData(0, 0, w, h).data;
          done([away(seen[0], seen[2]), away(seen[1], seen[2]), away(seen[0], wanted), away(seen[2], wanted)]);
        };
        // However slow the machine is. From the beginning, wherever it is now.
        d.polish.ms = 1e6;
        s.invalidate();
        look();"""
    )
    # Five are nearer to all sixteen than the first is, and all are much nearer to a still.
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
