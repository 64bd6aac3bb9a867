"""The screen stays awake while a run goes on, where the desktop can be asked for that."""

from PySide6.QtCore import QObject

SERVICE, PATH = "org.freedesktop.ScreenSaver", "/org/freedesktop/ScreenSaver"


class Awake(QObject):
    """Asks the desktop not to put the screen to sleep."""

    def __init__(self, parent: QObject) -> None:
        super().__init__(parent)
        self._cookie: int | None = None

    def keep(self, *, on: bool) -> bool:
        """Keep it awake or let it sleep; False when the desktop cannot be asked."""
        from PySide6.QtDBus import QDBusConnection, QDBusInterface

        bus = QDBusConnection.sessionBus()
        if not bus.isConnected():
            return False
        saver = QDBusInterface(SERVICE, PATH, SERVICE, bus)
        if not saver.isValid():
            return False
        if on and self._cookie is None:
            answer = saver.call("Inhibit", "Aplomb", "a run at the bench")
            found = answer.arguments()
            self._cookie = int(found[0]) if found else None
        elif not on and self._cookie is not None:
            saver.call("UnInhibit", self._cookie)
            self._cookie = None
        return True
