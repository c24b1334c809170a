"""The version: apart from the package itself, so that modules can name it without importing what that offers."""

__version__ = "0.1.0"
