"""The computations: numbers, arrays and text in, the same out. No file, no console, no network, no Pillow.

An import contract in pyproject.toml holds this, so the tests of these modules need no stand-ins.
"""
