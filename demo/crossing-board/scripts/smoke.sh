#!/bin/sh
# Asks a running crossing board how it is.
set -eu
curl --fail --silent "http://127.0.0.1:${CROSSING_BOARD_PORT:-8087}/healthz"
