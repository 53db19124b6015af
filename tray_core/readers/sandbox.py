"""Shutting the decoders' process in: from then on it may compute, and read programs and fonts, and nothing else.

Landlock (Linux 5.13 and later) takes files and, from 6.7 on, TCP connections away; a seccomp filter takes the calls
away that make sockets, start programs, trace or signal other processes. Both are asked of the kernel directly: neither
needs rights, and neither can be undone. Where the kernel has one of them only, that one is used.
"""

from __future__ import annotations

import ctypes
import errno
import os
import platform
import struct
import sys
from collections.abc import Iterable
from pathlib import Path

_NO_NEW_PRIVILEGES, _SET_SECCOMP = 38, 22  # prctl(2)
_CREATE_RULESET, _ADD_RULE, _RESTRICT_SELF = 444, 445, 446  # the same on all machines
_VERSION = 1
_FILES = (1 << 13) - 1  # every right over files of the first version
_READ = 1 << 2 | 1 << 3  # to read files, and folders
_EXECUTE = 1 << 0
_MORE_FILES = {2: 1 << 13, 3: 1 << 14, 5: 1 << 15}  # rights that later versions can take away
_NETWORK = 3  # to bind and to connect
_BENEATH = 1

# System calls by machine: socket, connect, execve, execveat, ptrace, kill, tgkill, process_vm_readv, process_vm_writev
_REFUSED = {
    "x86_64": (0xC000003E, (41, 42, 59, 322, 101, 62, 234, 310, 311)),
    "aarch64": (0xC00000B7, (198, 203, 221, 281, 117, 129, 131, 270, 271)),
}


def readable() -> list[Path]:
    """What decoders read besides what they are given: this program, its libraries, fonts, what the machine is."""
    package = Path(__file__).resolve().parents[1]
    system = ("/usr", "/lib", "/lib64", "/etc/fonts", "/etc/ld.so.cache", "/var/cache/fontconfig")
    devices = ("/dev/null", "/dev/zero", "/dev/urandom", "/sys/devices/system/cpu")
    found = [Path(each).resolve() for each in (sys.prefix, sys.base_prefix, *system, *devices)]
    return [each for each in dict.fromkeys([package, *found]) if each.exists()]


def landlock_version() -> int:
    """The kernel's version of Landlock; 0 where it has none."""
    return max(0, int(ctypes.CDLL(None).syscall(_CREATE_RULESET, None, 0, _VERSION)))


def shut_in(paths: Iterable[Path]) -> tuple[bool, bool]:
    """Take everything away from this thread, and those that it starts, but to read below `paths`.

    Gives whether files were taken away, and whether system calls were.
    """
    libc = ctypes.CDLL(None, use_errno=True)
    libc.prctl(_NO_NEW_PRIVILEGES, 1, 0, 0, 0)
    return _without_files(libc, paths), _without_calls(libc)


def _without_files(libc: ctypes.CDLL, paths: Iterable[Path]) -> bool:
    version = landlock_version()
    if not version:
        return False
    rights = _FILES
    for least, more in _MORE_FILES.items():
        rights |= more if version >= least else 0
    attributes = struct.pack("QQ", rights, _NETWORK if version >= 4 else 0)[: 16 if version >= 4 else 8]
    ruleset = libc.syscall(_CREATE_RULESET, attributes, len(attributes), 0)
    if ruleset < 0:
        return False
    try:
        for path in paths:
            allowed = _READ | _EXECUTE if path.is_dir() else 1 << 2
            opened = os.open(path, os.O_PATH | os.O_CLOEXEC)
            try:
                libc.syscall(_ADD_RULE, ruleset, _BENEATH, struct.pack("=Qi", allowed, opened), 0)
            finally:
                os.close(opened)
        return bool(libc.syscall(_RESTRICT_SELF, ruleset, 0) == 0)
    finally:
        os.close(ruleset)


def _without_calls(libc: ctypes.CDLL) -> bool:
    if platform.machine() not in _REFUSED:
        return False
    architecture, calls = _REFUSED[platform.machine()]
    load, equal, answer = 0x20, 0x15, 0x06  # BPF: load a word, compare, return
    allow, refuse, end = 0x7FFF0000, 0x00050000 | errno.EPERM, 0x80000000
    # Of another machine's calls nothing is known: they end the process.
    program = [(load, 0, 0, 4), (equal, 1, 0, architecture), (answer, 0, 0, end), (load, 0, 0, 0)]
    for place, call in enumerate(calls):
        program.append((equal, len(calls) - place, 0, call))
    program += [(answer, 0, 0, allow), (answer, 0, 0, refuse)]
    code = ctypes.create_string_buffer(b"".join(struct.pack("HBBI", *each) for each in program))
    filters = struct.pack("HxxxxxxP", len(program), ctypes.addressof(code))
    return bool(libc.prctl(_SET_SECCOMP, 2, filters, 0, 0) == 0)
