"""The parts of CSS that decide which image is fetched: lengths, and the devices they are evaluated on."""
