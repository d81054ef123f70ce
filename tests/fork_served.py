"""Serve in a child process, over and over: everything is imported once, and each child can be killed.

A line on standard input starts a child; its process number is printed, and "ended" once it has.
"""

from __future__ import annotations

import os
import sys

from reedling.cli import serve


def main() -> None:
    """Start a child for each line."""
    for _ in sys.stdin:
        child = os.fork()
        if child == 0:
            serve()
            os._exit(0)
        print(child, flush=True)
        os.waitpid(child, 0)
        print("ended", flush=True)


if __name__ == "__main__":
    main()
