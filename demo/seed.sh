#!/bin/sh
# Publishes the projects that prepare.sh laid out in DEST to the service at
# SERVER, through the real client. What is there already stays.
set -eu
dest=$1
server=$2
printf '%s\n' "$IRONCAST_OPERATOR_PASSWORD" | "${IRONCAST:-bin/ironcast}" login "$server" --name operator --password-stdin >/dev/null
for project in earlier/crossing-board crossing-board earlier/tide-log tide-log harbour-suite pier-guide; do
	"${IRONCAST:-bin/ironcast}" publish "$dest/$project" >/dev/null
done
