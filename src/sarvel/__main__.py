"""The console script, and `python -m sarvel`. Small, so that an interrupt finds someone who catches it as early as can be."""

import os
import sys


class Interrupts:
    """The handler of SIGINT: raises KeyboardInterrupt and remembers it, because libraries turn it into errors of their own.

    Attributes:
        came: whether there was one.
    """

    came = False

    def __call__(self, *_: object) -> None:
        """Is called by the system."""
        self.came = True
        raise KeyboardInterrupt


def _heard_late(lost: "sys.UnraisableHookArgs") -> None:
    """Repeats an interrupt that a library dropped, where no exception can pass; other exceptions are reported as usual."""
    if not issubclass(lost.exc_type, KeyboardInterrupt):
        sys.__unraisablehook__(lost)
        return
    import _thread
    import time

    def again() -> None:
        time.sleep(0.01)  # until the library is left
        _thread.interrupt_main()

    _thread.start_new_thread(again, ())


def run() -> None:
    """Runs the command line, and leaves the program with its exit code."""
    try:
        import signal

        signal.signal(signal.SIGINT, Interrupts())
        sys.unraisablehook = _heard_late
        if "_ARGCOMPLETE" in os.environ:  # a shell asks for completions
            from sarvel.cli.complete import complete

            complete()
        if sys.argv[1:] in (["--help"], ["-h"], ["help"]):
            from sarvel.cli.overview import overview

            try:
                code = 0 if os.write(1, overview().encode()) else 1
            except OSError:  # the reader has gone
                code = 1
        else:
            from sarvel.cli.main import main

            code = main()
    except KeyboardInterrupt:
        os.write(2, b"interrupted; finished work is kept\n")  # plain, because modules may be half loaded
        code = 130
    signal.signal(signal.SIGINT, signal.SIG_IGN)  # all is done; leaving is not worth a traceback
    sys.exit(code)


if __name__ == "__main__":
    run()
