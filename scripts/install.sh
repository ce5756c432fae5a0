#!/bin/sh
# Installs what is missing of the named parts: mariadb, chromium. Uses apt where
# there is one, and otherwise says what to install by hand.
set -eu

missing() {
	case $1 in
	mariadb) ! { command -v mariadbd || [ -x /usr/sbin/mariadbd ]; } >/dev/null 2>&1 ;;
	chromium) ! command -v chromium >/dev/null 2>&1 ;;
	*) echo "install.sh knows mariadb and chromium, not $1" >&2; exit 2 ;;
	esac
}

package() {
	case $1 in
	mariadb) echo mariadb-server ;;
	chromium) echo chromium ;;
	esac
}

for tool in go node npm git; do
	if ! command -v $tool >/dev/null 2>&1; then
		echo "$tool is not installed. Iron Cast is built with Go 1.26 or later, Node.js 20 or later, npm and git." >&2
		exit 1
	fi
done

packages=
for part in "$@"; do
	if missing "$part"; then packages="$packages $(package "$part")"; fi
done
[ -n "$packages" ] || exit 0

if ! command -v apt-get >/dev/null 2>&1; then
	echo "Please install by hand, as this system has no apt:$packages" >&2
	exit 1
fi
sudo=
if [ "$(id -u)" != 0 ]; then
	sudo=sudo
	if ! command -v sudo >/dev/null 2>&1; then
		echo "Please install as root: apt-get install$packages" >&2
		exit 1
	fi
fi
echo "Installing from Debian's packages:$packages"
# Debian would start a database server of its own; it is not wanted here.
$sudo apt-get update -qq
$sudo env DEBIAN_FRONTEND=noninteractive RUNLEVEL=1 apt-get install -y -qq --no-install-recommends $packages >/dev/null
