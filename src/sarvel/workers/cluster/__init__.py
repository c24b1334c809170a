"""The work on masters done by the workers of a dask cluster: docs/scale.md."""
