"""The cage in which footage is decoded: what a child of the worker may have, and what it may never do."""

from __future__ import annotations

import ctypes
import errno
import logging
import os
import resource
import signal
import sys

__all__ = ["enter", "filtered"]

logger = logging.getLogger(__name__)
MOST_FILES = 256
DIE_WITH_PARENT = 1  # of prctl, in Linux's <sys/prctl.h>
CLONE_THREAD = 0x10000  # of clone, in Linux's <sched.h>: a thread, not a process
# No network, no other program, no other process looked into, no way out.
DENIED = (
    "socket", "socketpair", "connect", "bind", "execve", "execveat", "fork", "vfork", "ptrace",
    "process_vm_readv", "process_vm_writev", "io_uring_setup", "bpf", "userfaultfd", "perf_event_open",
    "keyctl", "mount", "unshare", "setns",
)  # fmt: skip


def enter(memory_bytes: int, niceness: int) -> None:
    """Give up, for good, what reading and writing clips does not need.

    Memory, open files and memory dumps are limited everywhere; where the system knows how (Linux with
    libseccomp), no network and no other process can be begun. What the process needs has to be loaded before.

    Parameters
    ----------
    memory_bytes : what it may take for its data
    niceness     : 0..19, how far it stands back behind whoever waits for a page or a picture
    """
    for number in (signal.SIGINT, signal.SIGHUP):
        signal.signal(number, signal.SIG_IGN)  # it ends when its worker says so
    os.nice(niceness)
    resource.setrlimit(resource.RLIMIT_CORE, (0, 0))
    resource.setrlimit(resource.RLIMIT_NOFILE, (MOST_FILES, MOST_FILES))
    resource.setrlimit(resource.RLIMIT_DATA, (memory_bytes, memory_bytes))
    if sys.platform == "linux":
        ctypes.CDLL(None, use_errno=True).prctl(DIE_WITH_PARENT, signal.SIGKILL)
        _deny()


def _deny() -> None:
    try:
        import pyseccomp as seccomp
    except (ImportError, OSError, RuntimeError):  # its system library is not here
        logger.warning("libseccomp is missing: clips are decoded without that guard.")
        return
    rules = seccomp.SyscallFilter(seccomp.ALLOW)
    for name in DENIED:
        if seccomp.resolve_syscall(seccomp.system_arch(), name) >= 0:  # not every machine has each of them
            rules.add_rule(seccomp.ERRNO(errno.EPERM), name)
    a_process = seccomp.Arg(0, seccomp.MASKED_EQ, CLONE_THREAD, 0)
    rules.add_rule(seccomp.ERRNO(errno.EPERM), "clone", a_process)
    # What it is asked lies in memory, where a filter cannot look; without it threads are begun by `clone`.
    rules.add_rule(seccomp.ERRNO(errno.ENOSYS), "clone3")
    rules.load()


def filtered() -> bool:
    """Whether this process is held by a filter of system calls."""
    with open("/proc/self/status", encoding="ascii", errors="replace") as status:
        return any(line.split() == ["Seccomp:", "2"] for line in status)
