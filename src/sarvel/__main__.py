"""The console script, and `python -m sarvel`. Small, so that an interrupt finds somebody who catches it as early as can be."""

import os
import sys


class Interrupts:
    """The handler of SIGINT: raises KeyboardInterrupt and remembers it, for libraries turn that into errors of their own.

    Attributes:
        came: whether there was one.
    """

    came = False

    def __call__(self, *_: object) -> None:
        """Is called by the system."""
        self.came = True
        raise KeyboardInterrupt


def run() -> None:
    """Runs the command line, and leaves the program with its exit code."""
    try:
        import signal

        signal.signal(signal.SIGINT, Interrupts())
        from sarvel.cli.main import main

        code = main()
    except KeyboardInterrupt:
        os.write(2, b"interrupted; what was done is kept\n")  # plain, for half of what is loaded may be missing
        code = 130
    signal.signal(signal.SIGINT, signal.SIG_IGN)  # all is done; leaving is not worth a traceback
    sys.exit(code)


if __name__ == "__main__":
    run()
