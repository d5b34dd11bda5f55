"""Where a family of processes listens, read from the kernel's own tables."""

from __future__ import annotations

import ipaddress
from pathlib import Path

import psutil

LISTEN = "0A"
"""State of a listening socket in /proc/net/tcp (Linux, include/net/tcp_states.h)."""


def listening(pid: int | None) -> list[tuple[str, str]]:
    """What every process under one listens at, with what it was started as: (command, "address:port")."""
    assert pid is not None
    top = psutil.Process(pid)
    inodes = _listening_inodes()
    found = []
    for process in (top, *top.children(recursive=True)):
        for inode in _sockets_of(process.pid):
            if inode in inodes:
                found.append((" ".join(process.cmdline()), inodes[inode]))
    return found


def _sockets_of(pid: int) -> set[str]:
    found = set()
    folder = Path(f"/proc/{pid}/fd")
    try:
        for entry in folder.iterdir():
            target = entry.readlink().name
            if target.startswith("socket:["):
                found.add(target[8:-1])
    except OSError:
        pass  # it has ended meanwhile
    return found


def _listening_inodes() -> dict[str, str]:
    found = {}
    for name in ("tcp", "tcp6"):
        table = Path(f"/proc/net/{name}")
        if not table.exists():
            continue
        for line in table.read_text().splitlines()[1:]:
            fields = line.split()
            if fields[3] == LISTEN:
                found[fields[9]] = _address(fields[1])
    return found


def _address(text: str) -> str:
    """An address as the kernel writes it: words of four bytes, each little-endian, in hexadecimal."""
    host, port = text.split(":")
    raw = bytes.fromhex(host)
    turned = b"".join(raw[i : i + 4][::-1] for i in range(0, len(raw), 4))
    return f"{ipaddress.ip_address(turned)}:{int(port, 16)}"
