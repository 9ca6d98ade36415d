#!/usr/bin/env bash
# Starts the demo: database, course, service. Runs until Ctrl-C.
set -euo pipefail
cd "$(dirname "$0")/.."

home=.celandine
mkdir -p "$home"
exec 9>"$home/lock"
if ! flock -n 9; then
  echo "The demo is running already$(cat "$home/address" 2>/dev/null | sed 's/^/, at /')." >&2
  echo "Stop it with Ctrl-C where it runs, or open that address." >&2
  exit 1
fi

service=
finish() {
  trap - EXIT INT TERM
  echo
  echo "Stopping …"
  if [ -n "$service" ]; then
    kill -TERM "$service" 2>/dev/null || true
    wait "$service" 2>/dev/null || true
  fi
  scripts/postgres.sh stop "$home/postgres"
  rm -f "$home/address"
  echo "Stopped. The data stays in $home; make reset forgets it."
}
trap finish EXIT
trap 'exit 0' INT
trap 'exit 0' TERM

url=$(scripts/postgres.sh start "$home/postgres")
export CELANDINE_DATABASE=$url
bin/celandine course load courses/glasshouse --password glasshouse 9>&-

port=${PORT:-8460}
first=$port
while (exec 3<>"/dev/tcp/127.0.0.1/$port") 2>/dev/null; do
  port=$((port + 1))
  [ "$port" -lt $((first + 50)) ] || { echo "No free port from $first on." >&2; exit 1; }
done
[ "$port" = "$first" ] || echo "Port $first is taken; using $port."

# Out of this process group, so that Ctrl-C reaches this script alone, which stops things in order.
setsid bin/celandine serve --listen "127.0.0.1:$port" 2>>"$home/service.log" 9>&- &
service=$!
for _ in $(seq 100); do
  (exec 3<>"/dev/tcp/127.0.0.1/$port") 2>/dev/null && break
  kill -0 "$service" 2>/dev/null || { echo "The service did not start; the end of $home/service.log:" >&2; tail -n 5 "$home/service.log" >&2; exit 1; }
  sleep 0.1
done
echo "http://127.0.0.1:$port" >"$home/address"
cat <<END

  Celandine is at  http://127.0.0.1:$port

  Sign in as       nadia    an instructor
                   ana      a learner with some marks
                   liam     a learner at the beginning
                   rosa     an administrator
  Password         glasshouse

  Ctrl-C stops it.

END

# A database that dies under the service is started again.
while kill -0 "$service" 2>/dev/null; do
  if ! scripts/postgres.sh alive "$home/postgres"; then
    echo "PostgreSQL has stopped; starting it again."
    scripts/postgres.sh start "$home/postgres" >/dev/null || { echo "It did not start; see above." >&2; exit 1; }
    echo "PostgreSQL is back; no hand-in was lost."
  fi
  sleep 1 &
  wait $! || true
done
echo "The service has stopped by itself; the end of $home/service.log:" >&2
tail -n 5 "$home/service.log" >&2
exit 1
