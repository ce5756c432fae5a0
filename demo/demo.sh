#!/bin/sh
# Runs the service with the Kelpwick catalogue until Ctrl-C. Its data stays in
# .demo/ for the next time. PORT is where it listens.
set -eu
port=${PORT:-7420}
server=http://127.0.0.1:$port
export IRONCAST_OPERATOR_PASSWORD=kelpwick-demo
mkdir -p .demo
demo/prepare.sh .demo/projects

echo "Starting the service and its database ..."
bin/ironcast serve --listen "127.0.0.1:$port" --data .demo/service >.demo/service.out 2>.demo/service.log &
service=$!
stop() {
	trap - INT TERM EXIT
	kill -TERM $service 2>/dev/null || true
	wait $service 2>/dev/null || true
}
trap 'stop; echo; echo "Stopped. The data is kept in .demo/."; exit 0' INT TERM
trap stop EXIT

until grep -q '^Iron Cast is at' .demo/service.out; do
	if ! kill -0 $service 2>/dev/null; then
		grep '^ironcast:' .demo/service.log >&2 || tail -n 5 .demo/service.log >&2
		echo "The demo takes another port with: make demo PORT=7430" >&2
		exit 1
	fi
	sleep 0.2
done

# The demo's own login is kept apart from yours.
XDG_CONFIG_HOME=$PWD/.demo/config demo/seed.sh .demo/projects "$server"

option=
[ "$port" = 7420 ] || option=" --server $server"
cat <<END

Iron Cast is at $server
  account: operator    password: $IRONCAST_OPERATOR_PASSWORD

Open it, or try in another terminal:
  bin/ironcast find$option
  bin/ironcast cast kelpwick/crossing-board tide-gauge$option
  bin/ironcast survey .demo/projects/try/crossing-board

Ctrl-C stops it.
END
wait $service
