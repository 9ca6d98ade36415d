#!/usr/bin/env bash
# A private PostgreSQL on loopback.
#
#   postgres.sh start DIR [-c setting=value …]   starts it if need be; prints its address
#   postgres.sh stop DIR                          stops it cleanly
#   postgres.sh alive DIR                         exits 0 while it runs
#
# DIR keeps the cluster, its port and its password. As root the server runs as
# the user postgres, since it refuses root.
set -euo pipefail

command=$1 dir=$2
shift 2
bin=$(ls -d /usr/lib/postgresql/*/bin 2>/dev/null | sort -V | tail -n 1)
[ -n "$bin" ] || { echo "PostgreSQL is not installed." >&2; exit 1; }

mkdir -p "$dir"
dir=$(cd "$dir" && pwd)
run=()
home=$dir
if [ "$(id -u)" -eq 0 ]; then
  run=(runuser -u postgres --)
  # A closed folder above would lock the postgres user out.
  if ! "${run[@]}" test -x "$dir" 2>/dev/null; then
    home=/var/tmp/celandine-$(printf %s "$dir" | sha256sum | cut -c1-12)
    mkdir -p "$home"
  fi
fi
cluster=$home/cluster

alive() { (cd / && "${run[@]}" "$bin/pg_ctl" -D "$cluster" status >/dev/null 2>&1); }

taken() { (exec 3<>"/dev/tcp/127.0.0.1/$1") 2>/dev/null; }

create() {
  rm -rf "$cluster.new"
  (umask 077; head -c 18 /dev/urandom | base64 | tr '+/' 'ab' >"$home/password")
  if [ ${#run[@]} -gt 0 ]; then
    chown postgres: "$home" "$home/password"
  fi
  (cd / && "${run[@]}" "$bin/initdb" -D "$cluster.new" -U celandine --auth=scram-sha-256 --pwfile="$home/password" --locale=C.UTF-8 --encoding=UTF8 >"/tmp/celandine-initdb.$$" 2>&1) || {
    cat "/tmp/celandine-initdb.$$" >&2
    exit 1
  }
  rm -f "/tmp/celandine-initdb.$$"
  (cd / && "${run[@]}" mv "$cluster.new" "$cluster")
}

start() {
  [ -d "$cluster" ] || create
  if ! alive; then
    # Not one that the kernel gives to whoever connects: while the server is away, somebody who asks for it again and again would meet themselves there, and keep it.
    port=$(cat "$home/port" 2>/dev/null || echo 15460)
    [ "$port" -lt 32768 ] || port=15460
    while taken "$port"; do port=$((port + 1)); done
    echo "$port" >"$home/port"
    settings="-p $port -c listen_addresses=127.0.0.1 -c unix_socket_directories=''"
    [ $# -eq 0 ] || settings="$settings $*"
    # Inherited descriptors (a lock, a pipe) would keep callers waiting for the server's end.
    (cd / && "${run[@]}" "$bin/pg_ctl" -D "$cluster" -w -t 60 -l "$home/log" -o "$settings" start </dev/null >/dev/null 2>&1 3>&- 4>&- 8>&- 9>&-) || {
      echo "PostgreSQL did not start; the end of $home/log:" >&2
      tail -n 10 "$home/log" >&2
      exit 1
    }
  fi
  printf 'postgres://celandine:%s@127.0.0.1:%s/postgres?sslmode=disable\n' "$(cat "$home/password")" "$(cat "$home/port")"
}

case $command in
start) start "$@" ;;
stop) ! alive || (cd / && "${run[@]}" "$bin/pg_ctl" -D "$cluster" -m fast -w stop >/dev/null) ;;
alive) alive ;;
remove)
  "$0" stop "$dir"
  rm -rf "$dir" "$home"
  ;;
*)
  echo "postgres.sh: unknown command $command" >&2
  exit 2
  ;;
esac
