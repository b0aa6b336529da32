# Izmet as a server or a worker; see compose.yaml.
FROM debian:bookworm
RUN apt-get update && apt-get install -y --no-install-recommends make python3 python3-venv ca-certificates
WORKDIR /izmet
COPY . .
RUN make set-up
ENV PATH=/izmet/.venv/bin:$PATH
