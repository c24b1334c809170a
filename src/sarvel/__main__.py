"""`python -m sarvel` is the command `sarvel`."""

from sarvel.cli.main import run

if __name__ == "__main__":
    run()
