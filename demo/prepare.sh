#!/bin/sh
# Lays out the demo's source projects in the folder DEST: each as it is now, the
# earlier version of two, and one without a manifest to try a survey on. Git keeps
# no empty folders, so they are made here.
set -eu
dest=$1
here=$(dirname "$0")
rm -rf "$dest"
mkdir -p "$dest/earlier" "$dest/try"
for project in crossing-board tide-log; do
	cp -R "$here/$project" "$dest/$project"
	mkdir -p "$dest/$project/var/spool"
	cp -R "$dest/$project" "$dest/earlier/$project"
	cp -R "$here/earlier/$project/." "$dest/earlier/$project/"
done
cp -R "$here/harbour-suite" "$here/pier-guide" "$dest"
cp -R "$dest/crossing-board" "$dest/try/crossing-board"
rm -r "$dest/try/crossing-board/ironcast.yaml" "$dest/try/crossing-board/.ironcast"
