"""The desktop asked to stay awake and to show a notice, over a bus of the session."""

from __future__ import annotations

import os
import subprocess
import sys
from pathlib import Path

from jeepney import DBusAddress, new_method_call

from hasty_reel.desk.desktop import Desktop, SessionBus
from hasty_reel.desk.stages.run.awake import CANNOT
from hasty_reel.desk.stagesof import RUN

SERVICE = """
import threading, time
from jeepney import MessageType, message_bus, new_method_return
from jeepney.io.blocking import Proxy, open_dbus_connection
from hasty_reel.desk.desktop import Desktop
heard, bus = [], open_dbus_connection(bus="SESSION")
for name in ("org.freedesktop.ScreenSaver", "org.freedesktop.Notifications"):
    Proxy(message_bus, bus).RequestName(name)
def serve():
    while True:
        m = bus.receive()
        if m.header.message_type == MessageType.method_call:
            heard.append(m.body)
            bus.send(new_method_return(m, "u", (7,)))
threading.Thread(target=serve, daemon=True).start()
desktop = Desktop()
assert desktop.stay_awake("rendering") and desktop.awake
assert desktop.notice("Done", "96 frames")
desktop.may_sleep()
assert not desktop.awake
time.sleep(0.2)
assert heard == [("Hasty Reel", "rendering"), ("Hasty Reel", 0, "", "Done", "96 frames", [], {}, -1), (7,)], heard
print("heard")
"""


def test_a_real_bus_takes_what_is_asked(tmp_path):
    env = {**os.environ, "PYTHONPATH": os.pathsep.join(sys.path)}
    ended = subprocess.run(
        ["dbus-run-session", "--", sys.executable, "-c", SERVICE], capture_output=True, text=True, check=False, env=env, timeout=60
    )
    assert ended.stdout == "heard\n", ended.stderr[-800:]


def test_what_is_asked_has_the_types_that_the_services_expect():
    """Signatures as freedesktop.org has them: Inhibit (ss) -> u, UnInhibit (u), Notify (susssasa{sv}i)."""
    asked: list[tuple] = []

    def call(service, path, method, signature, arguments):
        new_method_call(DBusAddress(path, service, service), method, signature, arguments).serialise(serial=1)  # fits, or raises
        asked.append((method, signature, arguments))
        return 11

    desktop = Desktop(call)
    assert desktop.stay_awake("why") and desktop.stay_awake("why"), "asked once"
    desktop.may_sleep()
    desktop.notice("title", "words")
    assert [a[:2] for a in asked] == [("Inhibit", "ss")] * 2 + [("UnInhibit", "u")] * 2 + [("Notify", "susssasa{sv}i")]
    assert asked[2][2] == (11,)


def test_without_a_bus_nothing_is_kept_awake(monkeypatch):
    monkeypatch.setenv("DBUS_SESSION_BUS_ADDRESS", "unix:path=/nowhere/at/all")
    assert SessionBus().call("a.b", "/a", "Inhibit", "ss", ("x", "y")) is None
    desktop = Desktop()
    assert not desktop.stay_awake("why") and not desktop.notice("a", "b")


def test_a_run_says_where_the_machine_cannot_be_kept_awake_and_lets_it_sleep_afterwards(qtbot, open_reel, small_path: Path):
    window = open_reel(small_path)
    window.show_stage(RUN)
    stage, final = window.run, window.session.final
    asked: list[str] = []
    stage.awake.desktop = Desktop(lambda service, path, method, signature, arguments: asked.append(method))
    final.type_frames("1001-1003")
    qtbot.waitUntil(lambda: final.run is not None and len(final.run.frames) == 3 and final._looking is None, timeout=20_000)
    stage.go()
    qtbot.waitUntil(lambda: final.work.record is not None and CANNOT in [m.words for m in final.work.record.messages], timeout=30_000)
    qtbot.waitUntil(lambda: not final.busy, timeout=60_000)
    assert stage.awake.words == "sh010: 3 of 3 frames finished." and asked[:2] == ["Inhibit", "Inhibit"]
