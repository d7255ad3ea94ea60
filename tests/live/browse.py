"""A browser with the page of a served file, and what a person does there."""
import os
import sys
import unittest

from selenium import webdriver
from selenium.common.exceptions import JavascriptException, StaleElementReferenceException
from selenium.webdriver.common.action_chains import ActionChains
from selenium.webdriver.common.by import By
from selenium.webdriver.support.ui import Select

from serve import SECOND, Served

TOOL, ROOT = sys.argv[1:3]
DEMO = os.path.join(ROOT, "demo", "apiary")


def browser():
    options = webdriver.ChromeOptions()
    for argument in ("--headless=new", "--no-sandbox", "--disable-gpu", "--disable-dev-shm-usage"):
        options.add_argument(argument)
    options.set_capability("goog:loggingPrefs", {"browser": "ALL"})
    return webdriver.Chrome(options=options)


class PageCase(unittest.TestCase):
    @classmethod
    def setUpClass(cls):
        cls.driver = browser()
        cls.driver.set_script_timeout(30)

    @classmethod
    def tearDownClass(cls):
        cls.driver.quit()

    def open(self, file="keeper.yaml", *more, width=1280, height=800, scheme="light", files=None, still=True):
        self.served = Served(TOOL, DEMO, file, *more, files=files, still=still)
        self.addCleanup(self.served.close)
        self.driver.execute_cdp_cmd("Emulation.setDeviceMetricsOverride",
                                    {"width": width, "height": height, "deviceScaleFactor": 1, "mobile": False})
        self.driver.execute_cdp_cmd("Emulation.setEmulatedMedia",
                                    {"features": [{"name": "prefers-color-scheme", "value": scheme}]})
        self.clicks = 0
        self.driver.get_log("browser")
        self.driver.get(self.served.address)
        self.addCleanup(self.driver.get, "about:blank")
        self.until("return mobrin.known.now && mobrin.machine() && mobrin.known.findings ? 1 : 0")
        self.addCleanup(self.no_errors)

    def no_errors(self):
        errors = [each["message"] for each in self.driver.get_log("browser") if each["level"] == "SEVERE"]
        self.assertEqual([each for each in errors if "409" not in each and "400" not in each], [])

    def js(self, script, *arguments):
        return self.driver.execute_script(script, *arguments)

    def until(self, script, *arguments):
        """Waits until it is so, and asks in the page itself, as each question from outside costs more than its answer;
        while the tables of a new loading are on their way there is no machine to ask."""
        waiting = """
          const done = arguments[arguments.length - 1], given = [...arguments].slice(0, -1), until = performance.now() + 20000;
          const asked = async function() { %s };
          (async () => {
            for (;;) {
              let found = null;
              try { found = await asked(...given); } catch (error) { }
              if (found || performance.now() > until) return done(found);
              await new Promise(later => setTimeout(later, 20));
            }
          })();""" % script
        for _ in range(3):  # what asks goes when the page is loaded anew
            try:
                found = self.driver.execute_async_script(waiting, *arguments)
            except JavascriptException:
                continue
            self.assertTrue(found, script)
            return found
        raise AssertionError(script)

    def find(self, selector):
        return self.driver.find_element(By.CSS_SELECTOR, selector)

    def click(self, selector):
        self.clicks += 1
        while True:
            try:
                return self.find(selector).click()
            except StaleElementReferenceException:
                pass  # it was drawn anew between finding and clicking

    def pick(self, selector, text):
        self.clicks += 1
        Select(self.find(selector)).select_by_visible_text(text)

    def state(self):
        return self.js("return mobrin.machine().states[mobrin.actorNow().regions[0].s].path")

    def advance(self, seconds):
        """Time is still; the page is told to go on, and has drawn what came."""
        self.js("return mobrin.ask([{do: 'advance', ticks: arguments[0]}])", round(seconds * SECOND))
        # The lanes' text is drawn from the past that was read since.
        self.js("return new Promise(done => setTimeout(done, 350))")

    def on_lanes(self, seconds, lane):
        """Clicks in the lanes at a time, in the middle of a lane (or so many pixels below the axis)."""
        self.clicks += 1
        lanes = self.find("#lanes")
        size = lanes.size
        x = 76 + seconds * SECOND / (10 * SECOND) * (size["width"] - 88)
        y = 24 + {"state": 9, "presses": 31}.get(lane, lane)
        ActionChains(self.driver).move_to_element_with_offset(
            lanes, round(x - size["width"] / 2), round(y - size["height"] / 2)).click().perform()

    def key(self, key):
        ActionChains(self.driver).send_keys(key).perform()
