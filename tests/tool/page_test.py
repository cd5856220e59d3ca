"""The page of `cursorum draw`, used with the keyboard alone in headless Chromium: page_test.py CURSORUM RECORDING"""

import json
import os
import shutil
import subprocess
import sys
import tempfile


class Browser:
    """Chromium, driven through the two pipes that it offers for that; messages end with a zero byte."""

    def __init__(self, folder):
        to_read, self.to = os.pipe()
        self.answers, to_write = os.pipe()

        def give_pipes():
            # Both are moved out of the way first: either could be number 3 or 4.
            high = os.dup(to_read), os.dup(to_write)
            spare = [os.dup(high[0]), os.dup(high[1])]
            while min(spare) < 5:
                spare = [os.dup(pipe) for pipe in spare]
            os.dup2(spare[0], 3)
            os.dup2(spare[1], 4)

        self.process = subprocess.Popen(
            ["chromium", "--headless=new", "--remote-debugging-pipe", "--no-sandbox", "--disable-gpu", "--disable-quic",
             "--no-first-run", "--disable-background-networking", "--disable-component-update", "--disable-sync",
             "--disable-dev-shm-usage", f"--user-data-dir={folder}/profile", "--window-size=1280,900", "about:blank"],
            preexec_fn=give_pipes, close_fds=False, stdout=subprocess.DEVNULL, stderr=subprocess.DEVNULL)
        os.close(to_read)
        os.close(to_write)
        self.number, self.buffer, self.session = 0, b"", None

    def message(self):
        while b"\0" not in self.buffer:
            more = os.read(self.answers, 65536)
            if not more:
                raise RuntimeError("the browser has ended")
            self.buffer += more
        text, self.buffer = self.buffer.split(b"\0", 1)
        return json.loads(text)

    def call(self, method, **params):
        self.number += 1
        call = {"id": self.number, "method": method, "params": params}
        if self.session:
            call["sessionId"] = self.session
        os.write(self.to, json.dumps(call).encode() + b"\0")
        while True:
            message = self.message()
            if message.get("id") == self.number:
                if "error" in message:
                    raise RuntimeError(f"{method}: {message['error']}")
                return message["result"]

    def open(self, url):
        target = self.call("Target.createTarget", url="about:blank")["targetId"]
        self.session = self.call("Target.attachToTarget", targetId=target, flatten=True)["sessionId"]
        self.call("Page.enable")
        self.call("Page.navigate", url=url)
        while self.message().get("method") != "Page.loadEventFired":
            pass

    def value(self, expression):
        result = self.call("Runtime.evaluate", expression=expression, returnByValue=True)
        if "exceptionDetails" in result:
            raise RuntimeError(f"{expression}: {result['exceptionDetails']}")
        return result["result"].get("value")

    def key(self, name, shift=False):
        text = name if len(name) == 1 else ""
        event = {"key": name, "modifiers": 8 if shift else 0}
        codes = {"Tab": 9, "Enter": 13, "Escape": 27, "Home": 36, "End": 35, "ArrowLeft": 37, "ArrowUp": 38,
                 "ArrowRight": 39, "ArrowDown": 40, " ": 32}
        if name in codes:
            event["windowsVirtualKeyCode"] = codes[name]
        self.call("Input.dispatchKeyEvent", type="keyDown", **event, **({"text": "\r" if name == "Enter" else text} if text or name == "Enter" else {}))
        self.call("Input.dispatchKeyEvent", type="keyUp", **event)

    def mouse(self, kind, x, y, **more):
        self.call("Input.dispatchMouseEvent", type=kind, x=x, y=y, **more)

    def type(self, text):
        for letter in text:
            self.key(letter)

    def end(self):
        self.process.kill()
        self.process.wait()


failures = 0


def expect(what, found, wanted):
    global failures
    holds = wanted(found) if callable(wanted) else found == wanted
    if not holds:
        failures += 1
        print(f"FAILED: {what}: found {found!r}{'' if callable(wanted) else f', expected {wanted!r}'}")


def use(browser):
    focused = "document.activeElement.id"
    frame = "document.querySelector('#frame').innerText"
    expect("title", browser.value("document.title"), lambda title: "949 frames at 24 per second" in title)
    # Everything can be reached with Tab alone, the lanes included.
    reached = []
    for _ in range(20):
        browser.key("Tab")
        reached.append(browser.value(focused))
        if reached[-1] == "plot":
            break
    expect("Tab order", reached, ["in", "out", "whole", "back", "on", "search", "plot"])

    browser.key("Home")
    expect("first frame", browser.value(frame), lambda text: text.startswith("Frame 0, 0.000000 s") and
           "ShiftLeft hold: was found down, without a press" in text)
    browser.key("ArrowRight")
    expect("one frame on", browser.value(frame), lambda text: text.startswith("Frame 1,"))
    browser.key("ArrowRight", shift=True)
    expect("ten frames on", browser.value(frame), lambda text: text.startswith("Frame 11,"))
    browser.key("ArrowDown")
    browser.key("ArrowDown")
    expect("another lane", browser.value(frame), lambda text: "; lane KeyW" in text.splitlines()[0])
    browser.key("n")
    expect("next event", browser.value(frame), lambda text: "KeyW press: went down in this frame" in text)
    browser.key("p")
    expect("no event before it", browser.value(frame), lambda text: "KeyW press: went down in this frame" in text)
    browser.key("End")
    expect("last frame", browser.value(frame), lambda text: text.startswith("Frame 948,"))

    whole = browser.value("view.to - view.from")
    browser.key("+")
    expect("zoomed in", browser.value("view.to - view.from"), whole / 2)
    browser.key("-")
    browser.key("0")
    expect("the whole again", browser.value("view.to - view.from"), whole)

    browser.key("Home")
    browser.key("f")
    expect("next thing that stands out", browser.value(frame), lambda text: text.startswith("Frame 105,") and
           "Comparing the levels at both cuts loses 1 press" in text)
    expect("it is in view", browser.value("view.from <= frames[105].from && frames[105].to <= view.to"), True)

    browser.key("/")
    expect("search has the focus", browser.value(focused), "search")
    browser.type("lost")
    expect("matches", browser.value("document.querySelector('#found').textContent"), lambda text: text.endswith(" of 6"))
    browser.key("Enter")
    expect("next match", browser.value(frame), lambda text: text.startswith("Frame 115,"))
    browser.value("document.querySelector('#search').value = ''")
    browser.type("frame 734")
    expect("a frame by number", browser.value(frame), lambda text: text.startswith("Frame 734,") and "KeyS blip" in text)
    browser.value("document.querySelector('#search').value = ''")
    browser.type("keyv")
    expect("nothing found", browser.value("document.querySelector('#found').textContent"), "not found")
    browser.key("Escape")
    expect("back in the lanes", browser.value(focused), "plot")

    # The mouse: over a frame, a click, the wheel, a drag.
    browser.key("0")
    box = browser.value("(({x, y}) => ({x, y}))(document.querySelector('#plot').getBoundingClientRect())")
    lane = browser.value("data.lanes.findIndex((lane) => lane.name === 'KeyR (desk keyboard)')")
    browser.value(f"chosenLane = {lane}, showLane()")
    x, y = box["x"] + browser.value("xOf(frames[200].from + 1)") + 1, box["y"] + browser.value(f"head + {lane + 0.5} * laneHeight - plot.scrollTop")
    chosen = browser.value("chosenFrame")
    browser.mouse("mouseMoved", x, y)
    expect("the frame under the mouse", browser.value(frame), lambda text: "under the mouse; lane KeyR" in text.splitlines()[0])
    expect("is not announced", browser.value("document.querySelector('#frame').ariaLive"), "off")
    expect("and not chosen", browser.value("chosenFrame"), chosen)
    browser.mouse("mousePressed", x, y, button="left", clickCount=1)
    browser.mouse("mouseReleased", x, y, button="left", clickCount=1)
    expect("a click chooses it", browser.value("Math.abs(chosenFrame - 200) <= 1 && chosenLane === " + str(lane)), True)
    browser.mouse("mouseWheel", x, y, deltaX=0, deltaY=-100)
    expect("the wheel zooms in", browser.value("Math.round((view.to - view.from) / (stop - start) * 100)"), 80)
    expect("around the mouse", browser.value(f"Math.abs(xOf(frames[200].from + 1) + 1 - {x - box['x']}) < 2"), True)
    begin = browser.value("view.from")
    browser.mouse("mousePressed", x, y, button="left", clickCount=1)
    browser.mouse("mouseMoved", x + 60, y, button="left", buttons=1)
    browser.mouse("mouseReleased", x + 60, y, button="left", clickCount=1)
    expect("a drag moves", browser.value("view.from"), lambda now: now < begin)
    expect("and chooses nothing", browser.value("Math.abs(chosenFrame - 200) <= 1"), True)
    browser.mouse("mouseMoved", 5, 5)

    # More lanes than there is room for: they scroll, and what is said about a frame stays in sight.
    browser.value("for (let i = 0; i < 30; ++i) data.lanes.push(data.lanes[0]); draw()")
    expect("the explanation is in sight", browser.value("document.querySelector('#frame').getBoundingClientRect().bottom <= innerHeight"), True)
    expect("the lanes scroll", browser.value("plot.scrollHeight > 2 * plot.clientHeight"), True)
    browser.mouse("mouseWheel", 40, y, deltaX=0, deltaY=90)
    expect("with the wheel over their names", browser.value("plot.scrollTop > 0"), True)
    browser.value("plot.focus(), chosenLane = 43")
    browser.key("ArrowDown")
    expect("and to the chosen one", browser.value("44 * laneHeight - plot.scrollTop + head < plot.clientHeight"), True)
    browser.value("data.lanes = data.lanes.slice(0, 15), chosenLane = 0, showLane(), draw()")
    browser.value("document.querySelector('#search').focus(), document.querySelector('#search').value = ''")
    browser.type("missed")
    expect("a press without effect", browser.value(frame), lambda text: "KeyH went down without focus, so it was ignored: 16.000" in text)
    browser.value("plot.focus()")

    # What a screen reader reads.
    tree = browser.call("Accessibility.getFullAXTree")["nodes"]
    names = {(node.get("role", {}).get("value"), node.get("name", {}).get("value")) for node in tree}
    expect("lanes in the accessibility tree", names, lambda all: ("application", "15 lanes of controls, 949 frames") in all)
    expect("the search field has a name", names, lambda all: ("searchbox", "Find") in all)
    expect("frames are announced", browser.value("document.querySelector('#frame').ariaLive"), "polite")
    expect("findings are buttons", names, lambda all: any(role == "button" and "focus lost: cancelled KeyS" in (name or "") for role, name in all))
    browser.value("document.querySelector('#all').open = true")
    browser.value("new Promise((done) => setTimeout(done))")
    expect("the table", browser.value("document.querySelectorAll('#table tbody tr').length"), lambda rows: rows > 50)


def main():
    cursorum, recording = sys.argv[1:3]
    if not shutil.which("chromium"):
        print("SKIPPED: there is no chromium")
        return 77
    with tempfile.TemporaryDirectory(ignore_cleanup_errors=True) as folder:
        page = f"{folder}/shift.html"
        subprocess.run([cursorum, "draw", recording, "-o", page, "--rate", "24"], check=True, stdout=subprocess.DEVNULL)
        browser = Browser(folder)
        try:
            browser.open(f"file://{page}")
            use(browser)
        finally:
            if len(sys.argv) > 3:
                import base64
                with open(sys.argv[3], "wb") as shot:
                    shot.write(base64.b64decode(browser.call("Page.captureScreenshot")["data"]))
            browser.end()
    print("failed" if failures else "passed")
    return 1 if failures else 0


sys.exit(main())
