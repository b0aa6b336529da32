"""From pins and shapes to a curve that hits every pin exactly."""
