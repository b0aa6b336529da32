"""Media files: probing, decoding, proxies, encoding. See the README beside this file."""
