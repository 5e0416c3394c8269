"""The desktop around the window: kept awake while frames are rendered, and told when they are done or in trouble.

Both go over the session's D-Bus, where the desktop offers them: org.freedesktop.ScreenSaver and
org.freedesktop.PowerManagement.Inhibit to stay awake, org.freedesktop.Notifications for notices (freedesktop.org).
"""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

NAME = "Hasty Reel"
AWAKE = (
    ("org.freedesktop.PowerManagement.Inhibit", "/org/freedesktop/PowerManagement/Inhibit"),
    ("org.freedesktop.ScreenSaver", "/org/freedesktop/ScreenSaver"),
)
NOTICES = ("org.freedesktop.Notifications", "/org/freedesktop/Notifications")
WAIT_SECONDS = 0.5
Call = Callable[[str, str, str, str, tuple], Any]
"""Called with service, path, method, signature and arguments; gives what came back, None where nobody answers."""


class SessionBus:
    """The bus of the session, connected when it is first needed; what keeps the machine awake holds for as long as it stays connected."""

    def __init__(self) -> None:
        self._bus: Any = None

    def call(self, service: str, path: str, method: str, signature: str, arguments: tuple) -> Any:
        """Call a method of a service; None where there is no bus, no such service, or it refuses."""
        from jeepney import DBusAddress, MessageType, new_method_call
        from jeepney.io.blocking import open_dbus_connection

        try:
            if self._bus is None:
                self._bus = open_dbus_connection(bus="SESSION")
            message = new_method_call(DBusAddress(path, service, service), method, signature, arguments)
            answer = self._bus.send_and_get_reply(message, timeout=WAIT_SECONDS)
        except (OSError, KeyError, ValueError, TimeoutError):
            return None
        if answer.header.message_type != MessageType.method_return:
            return None
        return answer.body[0] if answer.body else True


class Desktop:
    """Keeps the machine awake for as long as frames are rendered, and shows notices."""

    def __init__(self, call: Call | None = None) -> None:
        self._call = call or SessionBus().call
        self._held: list[tuple[str, str, int]] = []

    @property
    def awake(self) -> bool:
        """Whether the machine is kept awake by the desktop."""
        return bool(self._held)

    def stay_awake(self, why: str) -> bool:
        """Ask the desktop to stay awake; whether it does."""
        if not self._held:
            for service, path in AWAKE:
                cookie = self._call(service, path, "Inhibit", "ss", (NAME, why))
                if cookie is not None:
                    self._held.append((service, path, int(cookie)))
        return self.awake

    def may_sleep(self) -> None:
        """Let the machine sleep again."""
        for service, path, cookie in self._held:
            self._call(service, path, "UnInhibit", "u", (cookie,))
        self._held = []

    def notice(self, title: str, words: str) -> bool:
        """Show a notice; whether the desktop took it."""
        return self._call(*NOTICES, "Notify", "susssasa{sv}i", (NAME, 0, "", title, words, [], {}, -1)) is not None
