"""A person at the browser: finds things by role and name, waits for conditions, never for seconds."""

from __future__ import annotations

import atexit
import os
import tempfile
from collections.abc import Callable
from pathlib import Path
from typing import Any

from selenium import webdriver
from selenium.common.exceptions import WebDriverException
from selenium.webdriver.chrome.service import Service
from selenium.webdriver.common.action_chains import ActionChains
from selenium.webdriver.common.by import By
from selenium.webdriver.common.keys import Keys
from selenium.webdriver.remote.webelement import WebElement

from tests.processes import PATIENCE_S, wait_for

FLAGS = [
    "--headless=new", "--no-sandbox", "--disable-dev-shm-usage", "--use-gl=angle", "--use-angle=swiftshader",
    "--enable-unsafe-swiftshader", "--disable-background-networking", "--disable-component-update",
    "--disable-default-apps", "--disable-sync", "--no-first-run", "--no-default-browser-check", "--disable-extensions",
    "--disable-features=Translate,OptimizationHints,MediaRouter", "--mute-audio", "--window-size=1280,800",
    "--force-device-scale-factor=1", "--force-prefers-reduced-motion",
    # The page is put together without WebGL in software; the stage's picture alone is drawn with it.
    "--disable-gpu-compositing",
]  # fmt: skip
SAID = "return [document.body.innerText, window.zarfwrightSaid ? window.zarfwrightSaid() : []]"
# Software rendering: a tenth of the pixels is enough to see a beam by.
SCALE = 0.25


class Chromium:
    """A browser that several persons use one after another, each with a tab of their own."""

    def __init__(self) -> None:
        options = webdriver.ChromeOptions()
        options.binary_location = "/usr/bin/chromium"
        for flag in FLAGS:
            options.add_argument(flag)
        options.set_capability("goog:loggingPrefs", {"browser": "ALL"})
        # ChromeDriver leaves folders in TMPDIR; a short one, for Chromium's sockets have short names.
        self._folder = tempfile.TemporaryDirectory(prefix="zw", dir="/tmp", ignore_cleanup_errors=True)
        env = {**os.environ, "TMPDIR": self._folder.name}
        self.driver = webdriver.Chrome(options=options, service=Service("/usr/bin/chromedriver", env=env))
        self.driver.command_executor.client_config.timeout = 300
        width, height = self.driver.execute_script("return [innerWidth, innerHeight]")
        self.driver.set_window_size(2560 - width, 1600 - height)

    def fresh(self, downloads: Path) -> None:
        """A new tab in place of all that are open; nothing of what was stored or said before is there."""
        handles = self.driver.window_handles
        self.driver.switch_to.new_window("tab")
        new = self.driver.current_window_handle
        for handle in handles:
            self.driver.switch_to.window(handle)
            self.driver.close()
        self.driver.switch_to.window(new)
        where = {"behavior": "allow", "downloadPath": str(downloads)}
        self.driver.execute_cdp_cmd("Browser.setDownloadBehavior", where)
        self.driver.get_log("browser")

    def quit(self) -> None:
        self.driver.quit()
        self._folder.cleanup()


class Browsers:
    """The browsers of this run: one that nobody uses is used again."""

    def __init__(self) -> None:
        self._free: list[Chromium] = []

    def take(self) -> Chromium:
        return self._free.pop() if self._free else Chromium()

    def give_back(self, browser: Chromium) -> None:
        self._free.append(browser)

    def quit(self) -> None:
        """End those that nobody uses: a module begins with new ones."""
        while self._free:
            self._free.pop().quit()


BROWSERS = Browsers()
atexit.register(BROWSERS.quit)


class Person:
    """One browser tab on one program. Each program has an address of its own: nothing that was stored for another is
    there."""

    def __init__(self, downloads: Path) -> None:
        self.downloads = downloads
        self._browser = BROWSERS.take()
        self.driver = self._browser.driver
        self._browser.fresh(downloads)
        self._heard = 0
        """How many messages of this page were heard."""

    def open(self, url: str, scale: float = SCALE, quality: str = "Build", rests: bool = True) -> None:
        """Open a show; unless told otherwise its picture is plain, and drawn when something has changed only."""
        self.driver.get(f"{url}/?scale={scale}&quality={quality}{'&rests' if rests else ''}")
        self._heard = 0
        self.settle()

    def close(self) -> None:
        """Leave the page, and the browser to the next one; one that no longer answers is ended."""
        try:
            self._browser.fresh(self.downloads)
        except WebDriverException:
            self._browser.quit()
        else:
            BROWSERS.give_back(self._browser)

    # Finding

    def find(self, xpath: str, what: str, seconds: float = PATIENCE_S) -> WebElement:
        return wait_for(lambda: next(iter(self.driver.find_elements(By.XPATH, xpath)), None), what, seconds)

    def button(self, name: str) -> WebElement:
        """A button by what it is called, or says: by all of that, or by its beginning where only one begins so."""
        whole = f'@aria-label="{name}" or (not(@aria-label) and normalize-space(.)="{name}")'
        begun = f'starts-with(@aria-label, "{name}")'
        begun += f' or (not(@aria-label) and starts-with(normalize-space(.), "{name}"))'

        def found() -> WebElement | None:
            for named in (whole, begun):
                buttons = self.driver.find_elements(By.XPATH, f"//*[self::button or self::a][{named}]")
                if len(buttons) > 1 and named is begun:
                    raise AssertionError(f"{len(buttons)} buttons begin with “{name}”: {[b.text for b in buttons]}")
                if buttons:
                    return buttons[0]
            return None

        return wait_for(found, f"the button {name}")

    def press(self, name: str) -> None:
        """Click a button, once it can be clicked."""
        self._click(lambda: self.button(name), name, "nearest")

    def click(self, xpath: str, what: str, block: str = "nearest", held: str = "") -> None:
        """Click whatever is found, once it can be clicked; with a key held, if one is given."""
        self._click(lambda: self.driver.find_element(By.XPATH, xpath), what, block, held)

    def _click(self, find: Callable[[], WebElement], what: str, block: str, held: str = "") -> None:
        """Click; what is being drawn anew is looked up again."""

        def clicked() -> bool:
            found = find()
            if not found.is_enabled():
                return False
            self.driver.execute_script("arguments[0].scrollIntoView({block: arguments[1]})", found, block)
            if held:
                ActionChains(self.driver).key_down(held).click(found).key_up(held).perform()
            else:
                found.click()
            return True

        wait_for(clicked, f"{what} to be clicked")

    def pick(self, list_name: str, words: str) -> None:
        """An option of a list that is known by its name only."""
        self.click(f'//select[@aria-label="{list_name}"]/option[.="{words}"]', f"{words} of {list_name}")

    def foot(self) -> str:
        """The status line."""
        return wait_for(lambda: self.driver.find_element(By.TAG_NAME, "footer").text, "the status line")

    def go(self, step: str) -> None:
        """A step of the work line: its name says more, such as what is to be done there."""
        self.click(f'//button[starts-with(@aria-label, "{step} ") and parent::nav]', f"the step {step}")

    def field(self, label: str, last: bool = False) -> WebElement:
        """A field by its label; the card's last one of that name where there are two."""

        def found() -> WebElement | None:
            labels = self.driver.find_elements(By.XPATH, f'//aside//label[normalize-space(.)="{label}"]')
            return labels and self.driver.find_element(By.ID, labels[-1 if last else 0].get_attribute("for") or "")

        return wait_for(found, f"the field {label}")

    def value(self, label: str) -> str:
        """What stands in a field."""
        return wait_for(lambda: [self.field(label).get_attribute("value") or ""], f"what is in {label}")[0]

    def type(self, label: str, text: str, enter: bool = False, last: bool = False) -> None:
        self.write(lambda: self.field(label, last), text, label)
        if enter:
            self.field(label, last).send_keys(Keys.ENTER)

    def write(self, find: Callable[[], WebElement], text: str, what: str) -> None:
        """Write over what stands in a field, and see that it stands there: one that is drawn anew loses keys."""

        def written() -> bool:
            field = find()
            field.send_keys(Keys.CONTROL, "a")
            field.send_keys(text)
            return field.get_attribute("value") == text

        wait_for(written, f"“{text}” to stand in {what}")

    def choose(self, label: str, words: str) -> None:
        """An option of a list, by the start of what it says."""
        option = f'./option[starts-with(normalize-space(.), "{words}")]'

        def chosen() -> bool:
            field = self.field(label)
            found = field.find_element(By.XPATH, option)
            found.click()
            return found.is_selected()

        wait_for(chosen, f"{words} to be chosen of {label}")

    def row(self, words: str) -> None:
        """Click a row of the bench by the text of a cell."""
        self.click(f'//section[@aria-label="Bench"]//td[normalize-space(.)="{words}"]', f"the row {words}", "center")

    def says(self, words: str, seconds: float = PATIENCE_S) -> None:
        """Wait until the screen says something now, or has said it in a message since the last one that was heard."""

        def said() -> bool:
            page, messages = self.driver.execute_script(SAID)
            # Newest first; those that were there before are not heard again.
            new = messages[: len(messages) - self._heard]
            found = next((i for i, text in enumerate(new) if words in text), None)
            if found is not None:
                self._heard = len(messages) - found
            return found is not None or words in page

        wait_for(said, f"the screen to say “{words}”", seconds)

    # The stage, through its test hook

    def stage(self, call: str, *args: Any) -> Any:
        return self.driver.execute_script(
            f"const s = window.zarfwrightStage; return s && s.solids ? s.{call}(...arguments) : null", *args
        )

    def report(self) -> Any:
        """What the stage says of itself, once there is one."""
        return wait_for(lambda: self.stage("report"), "the stage")

    def settle(self) -> Any:
        """Wait until everything asked for is on screen."""

        def settled() -> Any:
            report = self.stage("report")
            return report if report and report["settled"] and report["frames"] and report["solids"] else None

        return wait_for(settled, "the picture")

    def beam(self, fixture: str, pane: int = 0) -> Any:
        """The first beam of a fixture, once it is known where it hangs."""
        return wait_for(
            lambda: next(b for b in self.report()["panes"][pane]["beams"] if b["id"] == fixture and b["lens"]),
            f"the beam of {fixture}",
        )

    def beams_until(self, condition: Callable[[dict[str, Any]], bool], what: str, pane: int = 0) -> dict[str, Any]:
        """Wait until the beams on stage, by fixture, are as they should be."""

        def seen() -> dict[str, Any] | None:
            beams = {beam["id"]: beam for beam in self.report()["panes"][pane]["beams"]}
            return beams if beams and condition(beams) else None

        return wait_for(seen, what)

    def click_place(self, point: list[float], pane: str = "main") -> None:
        """Click where a place of the show is on the stage."""
        at = self.stage("where", pane, point)
        assert at, f"{point} is not in the {pane} pane"
        self._at(at).click().perform()

    def drag_place(self, point: list[float], to: list[float], pane: str = "main") -> None:
        """Drag from where a place of the show is on the stage to where another is."""
        at, end = self.stage("where", pane, point), self.stage("where", pane, to)
        assert at, f"{point} is not in the {pane} pane"
        assert end, f"{to} is not in the {pane} pane"
        chain = self._at(at).click_and_hold()
        for _ in range(4):
            chain = chain.move_by_offset(round((end["x"] - at["x"]) / 4), round((end["y"] - at["y"]) / 4))
        chain.release().perform()

    def drag_off(self, point: list[float], to: WebElement, dx: int, pane: str = "main") -> None:
        """Drag from where a place of the show is on the stage to something beside it, `dx` pixels from its middle."""
        at = self.stage("where", pane, point)
        assert at, f"{point} is not in the {pane} pane"
        chain = self._at(at).click_and_hold().move_by_offset(8, 8)
        chain.move_to_element_with_offset(to, dx + 30, 0).move_to_element_with_offset(to, dx, 0).release().perform()

    def _at(self, at: dict[str, float]) -> ActionChains:
        canvas = self.driver.find_elements(By.TAG_NAME, "canvas")[1]
        box = canvas.rect
        chain = ActionChains(self.driver, duration=50)
        return chain.move_to_element_with_offset(
            canvas, round(at["x"] - box["width"] / 2), round(at["y"] - box["height"] / 2)
        )

    def handle(self, name: str, pane: int = 0) -> dict[str, float]:
        """Where a handle's end is."""

        def place() -> Any:
            return next((h["places"][pane] for h in self.report()["handles"] if h["name"] == name), None)

        found: dict[str, float] = wait_for(place, f"the handle {name}")
        return found

    def drag(self, name: str, dx: int, dy: int, pane: int = 0, let_go: bool = True) -> None:
        """Drag a handle by pixels, once all that was asked for is on screen."""
        self.settle()
        chain = self._at(self.handle(name, pane)).click_and_hold().move_by_offset(dx // 2, dy // 2)
        chain.move_by_offset(dx - dx // 2, dy - dy // 2)
        (chain.release() if let_go else chain).perform()

    def escape(self) -> None:
        """Leave what the pointer is doing, and let its button go."""
        ActionChains(self.driver).send_keys(Keys.ESCAPE).release().perform()

    def errors(self) -> list[str]:
        """What the browser complained of, but for what a test does on purpose (refusals, restarts)."""
        known = ("Failed to load resource", "WebSocket connection", "ReadPixels", "GPU stall")
        return [
            entry["message"]
            for entry in self.driver.get_log("browser")
            if entry["level"] == "SEVERE" and not any(word in entry["message"] for word in known)
        ]
