#!/bin/sh
# Installs the crossing board as a service of this machine.
set -eu
install -m 755 bin/crossing-board /usr/bin/crossing-board
install -m 644 deploy/crossing-board.service /etc/systemd/system/
systemctl enable --now crossing-board
