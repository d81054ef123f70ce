"""Serve in a child process, over and over: everything is imported and every route built once.

Each child opens the data folder anew and can be killed. Work that takes a processor long is done in the child itself.
A line on standard input starts a child; its process number is printed, and "ended" once it has.
"""

from __future__ import annotations

import os
import sys
import tempfile
from pathlib import Path

from reedling.api.observing import configure_logs
from reedling.app import create_app, make_ready, put_over
from reedling.cli import listen
from reedling.store.folder import DataFolder
from reedling.wiring import open_context, read_settings


def main() -> None:
    """Start a child for each line."""
    settings = read_settings()
    configure_logs(settings.log)
    app = create_app(open_context(Path(tempfile.mkdtemp()) / "unused", demo=True), settings)
    make_ready(app)
    for _ in sys.stdin:
        child = os.fork()
        if child == 0:
            put_over(app, open_context(settings.data_dir))
            with DataFolder(settings.data_dir).hold():
                listen(app, settings)
            os._exit(0)
        print(child, flush=True)
        os.waitpid(child, 0)
        print("ended", flush=True)


if __name__ == "__main__":
    main()
