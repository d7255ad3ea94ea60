#!/usr/bin/python3
"""Pictures of the live page for docs/screenshots: draw_page.py TOOL DEMO OUT_FOLDER"""
import os
import sys
import time

sys.path.insert(0, os.path.join(os.path.dirname(os.path.abspath(__file__)), "..", "tests", "live"))
from serve import SECOND, Served  # noqa: E402
from selenium import webdriver  # noqa: E402
from selenium.webdriver.common.action_chains import ActionChains  # noqa: E402
from selenium.webdriver.common.by import By  # noqa: E402
from selenium.webdriver.support.ui import Select  # noqa: E402

tool, demo, out = os.path.abspath(sys.argv[1]), os.path.abspath(sys.argv[2]), sys.argv[3]
options = webdriver.ChromeOptions()
for argument in ("--headless=new", "--no-sandbox", "--disable-gpu", "--disable-dev-shm-usage"):
    options.add_argument(argument)
driver = webdriver.Chrome(options=options)
driver.execute_cdp_cmd("Emulation.setDeviceMetricsOverride", {"width": 1280, "height": 800, "deviceScaleFactor": 1, "mobile": False})
served = Served(tool, demo, "keeper.yaml")
try:
    driver.get(served.address)
    time.sleep(1)
    # Walks, hops, strikes without a net, takes it and strikes.
    for seconds, commands in ((0.6, [{"set": {"move": 1}}]), (1.4, [{"press": ["hop"]}]), (0.1, [{"set": {"grounded": False}}]),
                              (0.5, [{"set": {"grounded": True, "move": 0}}]), (1.2, [{"press": ["swing"]}]),
                              (1.0, [{"set": {"carrying": "net"}}]), (0.4, [{"press": ["swing"]}]), (0.17, [])):
        served.advance(seconds)
        for each in commands:
            served.do({"do": "write", "actor": 0, **each})
    time.sleep(0.6)
    lanes = driver.find_element(By.ID, "lanes")
    width = lanes.size["width"]
    ActionChains(driver).move_to_element_with_offset(lanes, round(76 + 3.85 / 10 * (width - 88) - width / 2), round(24 + 31 - lanes.size["height"] / 2)).click().perform()
    time.sleep(0.8)
    driver.save_screenshot(os.path.join(out, "live.png"))
    driver.find_element(By.CSS_SELECTOR, "[data-tab=clip]").click()
    Select(driver.find_element(By.CSS_SELECTOR, "#clip .head select")).select_by_visible_text("net")
    driver.find_element(By.CSS_SELECTOR, ".frame[data-frame='3']").click()
    driver.find_element(By.CSS_SELECTOR, "#marks .mark:nth-of-type(1)")
    driver.execute_script("[...document.querySelectorAll('#marks .mark')].find(each => each.textContent.startsWith('nethit')).click()")
    time.sleep(0.8)
    driver.save_screenshot(os.path.join(out, "live_clip.png"))
finally:
    driver.quit()
    served.close()
