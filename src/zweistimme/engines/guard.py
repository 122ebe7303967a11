"""Runs as a process of its own between the desk and a program: however the desk ends, the program ends with it.

``guard.py FD COMMAND …``: *FD* is one end of a socket whose other end the desk holds. Once that is gone, the guard
kills its process group, in which the program and all it has started are. What keeps the program from starting goes into
the socket as a number of ``errno``. Imports nothing of the package, so that it is there in a moment.
"""

from __future__ import annotations

import os
import select
import signal
import sys


def main() -> int:
    """Start the program, wait for it or for the end of the desk; the program's exit code."""
    lifeline, command = int(sys.argv[1]), sys.argv[2:]
    os.set_inheritable(lifeline, False)
    try:
        child = os.posix_spawnp(command[0], command, os.environ)
    except OSError as error:
        os.write(lifeline, str(error.errno).encode())
        return 127
    for end in (0, 1, 2):  # else whoever reads them waits for this process as well
        os.close(end)
    poll = select.poll()
    poll.register(lifeline, select.POLLIN | select.POLLHUP)
    poll.register(os.pidfd_open(child), select.POLLIN)
    ready = dict(poll.poll())
    if lifeline in ready:
        os.killpg(0, signal.SIGKILL)
    signal.signal(signal.SIGTERM, signal.SIG_IGN)
    os.killpg(0, signal.SIGTERM)  # whatever the program has left running
    return os.waitstatus_to_exitcode(os.waitpid(child, 0)[1])


if __name__ == "__main__":
    code = main()
    os._exit(code if code >= 0 else 128 - code)
