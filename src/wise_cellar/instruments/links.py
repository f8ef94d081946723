"""Ways to a device: a serial port, a TCP address, a file that grows. Only what the user chose is opened."""

from __future__ import annotations

import ipaddress
import os
import socket
from abc import ABC, abstractmethod
from pathlib import Path

from wise_cellar.core.documents import DocumentError
from wise_cellar.core.words import quoted

WAIT_S = 0.1
"""A read comes back after so long, with or without something."""
OPEN_S = 2.0
MOST_BYTES = 65536
FORMS = "serial:/dev/ttyUSB0, tcp:127.0.0.1:5025, udp:127.0.0.1:14550 or file:/path/to/log.csv"


class LinkError(Exception):
    """The link cannot be opened, or was lost; told in a sentence."""


class Link(ABC):
    """One way to one device. Every method but :meth:`close` raises :class:`LinkError`."""

    name: str

    @abstractmethod
    def open(self) -> None:
        """Open it."""

    @abstractmethod
    def read(self) -> bytes:
        """What came within :data:`WAIT_S`; nothing where nothing did."""

    @abstractmethod
    def write(self, data: bytes) -> None:
        """Send."""

    @abstractmethod
    def close(self) -> None:
        """Close it, whatever state it is in."""


class SerialLink(Link):
    """A serial port, or a pseudo-terminal."""

    def __init__(self, port: str, baud: int) -> None:
        self.name, self._port, self._baud = port, port, baud
        self._serial: object | None = None

    def open(self) -> None:
        """Open the port at its rate."""
        import serial

        try:
            self._serial = serial.Serial(self._port, self._baud, timeout=WAIT_S, write_timeout=OPEN_S)
        except (OSError, ValueError) as error:
            raise LinkError(f"{self._port} cannot be opened: {_why(error)}.") from error

    def read(self) -> bytes:
        """Whatever is there, or comes."""
        import serial

        port = self._serial
        if not isinstance(port, serial.Serial):
            raise LinkError(f"{self._port} is not open.")
        try:
            first = port.read(1)
            return bytes(first + port.read(min(port.in_waiting, MOST_BYTES))) if first else b""
        except (OSError, TypeError) as error:
            raise LinkError(f"{self._port} was unplugged.") from error

    def write(self, data: bytes) -> None:
        """Send."""
        import serial

        port = self._serial
        if not isinstance(port, serial.Serial):
            raise LinkError(f"{self._port} is not open.")
        try:
            port.write(data)
        except OSError as error:
            raise LinkError(f"{self._port} takes nothing: {_why(error)}.") from error

    def close(self) -> None:
        """Close the port."""
        port, self._serial = self._serial, None
        if port is not None:
            try:
                port.close()  # type: ignore[attr-defined]
            except OSError:
                return


class TcpLink(Link):
    """An address and a port."""

    def __init__(self, host: str, port: int) -> None:
        self.name, self._host, self._port = f"{host}:{port}", host, port
        self._socket: socket.socket | None = None

    def open(self) -> None:
        """Connect."""
        try:
            self._socket = socket.create_connection((self._host, self._port), timeout=OPEN_S)
            self._socket.settimeout(WAIT_S)
        except OSError as error:
            raise LinkError(f"{self.name} cannot be reached: {_why(error)}.") from error

    def read(self) -> bytes:
        """Whatever comes."""
        if self._socket is None:
            raise LinkError(f"{self.name} is not open.")
        try:
            data = self._socket.recv(MOST_BYTES)
        except TimeoutError:
            return b""
        except OSError as error:
            raise LinkError(f"{self.name} was lost: {_why(error)}.") from error
        if not data:
            raise LinkError(f"{self.name} closed the link.")
        return data

    def write(self, data: bytes) -> None:
        """Send."""
        if self._socket is None:
            raise LinkError(f"{self.name} is not open.")
        try:
            self._socket.sendall(data)
        except OSError as error:
            raise LinkError(f"{self.name} takes nothing: {_why(error)}.") from error

    def close(self) -> None:
        """Close the connection."""
        if self._socket is not None:
            self._socket.close()
            self._socket = None


class UdpLink(Link):
    """A port of this computer that is sent to; nothing is answered."""

    def __init__(self, host: str, port: int) -> None:
        self.name, self._host, self._port = f"{host}:{port}", host, port
        self._socket: socket.socket | None = None

    def open(self) -> None:
        """Take what comes to the port."""
        family = socket.AF_INET6 if ":" in self._host else socket.AF_INET
        opened = socket.socket(family, socket.SOCK_DGRAM)
        try:
            opened.bind((self._host, self._port))
        except OSError as error:
            opened.close()
            raise LinkError(f"{self.name} cannot be listened to: {_why(error)}.") from error
        opened.settimeout(WAIT_S)
        self._socket = opened

    def read(self) -> bytes:
        """What one packet holds."""
        if self._socket is None:
            raise LinkError(f"{self.name} is not open.")
        try:
            return self._socket.recv(MOST_BYTES)
        except TimeoutError:
            return b""
        except OSError as error:
            raise LinkError(f"{self.name} was lost: {_why(error)}.") from error

    def write(self, data: bytes) -> None:
        """It is only listened to."""
        raise LinkError(f"{self.name} is only listened to, and cannot be told anything.")

    def close(self) -> None:
        """Listen no more."""
        if self._socket is not None:
            self._socket.close()
            self._socket = None


class FileLink(Link):
    """A file that another program goes on writing: read from its beginning, and on as it grows."""

    def __init__(self, path: Path) -> None:
        self.name, self._path = path.name, path
        self._at = 0

    def open(self) -> None:
        """See whether it is there."""
        if not self._path.is_file():
            raise LinkError(f"There is no file {self._path.name}.")

    def read(self) -> bytes:
        """What was written since; from the beginning again where it was made anew."""
        import time

        try:
            size = self._path.stat().st_size
            if size < self._at:
                self._at = 0
            if size > self._at:
                with self._path.open("rb") as file:
                    file.seek(self._at)
                    data = file.read(MOST_BYTES)
                self._at += len(data)
                return data
        except OSError as error:
            raise LinkError(f"{self._path.name} cannot be read: {_why(error)}.") from error
        time.sleep(WAIT_S)
        return b""

    def write(self, data: bytes) -> None:
        """A file takes no orders."""
        raise LinkError(f"{self._path.name} is a file: it can be read and not be told anything.")

    def close(self) -> None:
        """Nothing is held open between two reads."""


def link_to(address: str, baud: int = 115200) -> Link:
    """The link to an address; raises :class:`DocumentError` where it is none."""
    kind, _, rest = address.strip().partition(":")
    if kind == "serial" and rest:
        return SerialLink(rest, baud)
    if kind == "file" and rest:
        return FileLink(Path(rest))
    if kind in ("tcp", "udp"):
        host, _, port = rest.rpartition(":")
        if host and port.isdecimal() and 0 < int(port) < 65536:
            return (TcpLink if kind == "tcp" else UdpLink)(host.strip("[]"), int(port))
    if os.path.exists(address):
        return SerialLink(address, baud)
    raise DocumentError(f"{quoted(address)} is no address of a device; write {FORMS}.")


def needs_asking(address: str) -> bool:
    """Whether an address lies outside of this computer, so that the user is asked before it is opened."""
    kind, _, rest = address.strip().partition(":")
    if kind not in ("tcp", "udp"):
        return False
    host = rest.rpartition(":")[0].strip("[]")
    if host == "localhost":
        return False
    try:
        return not ipaddress.ip_address(host).is_loopback
    except ValueError:
        return True


def _why(error: Exception) -> str:
    number = getattr(error, "errno", None)
    text = os.strerror(number) if number else getattr(error, "strerror", None) or str(error)
    return str(text).strip().rstrip(".").splitlines()[0] if str(text).strip() else type(error).__name__
