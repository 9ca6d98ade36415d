# Sourced: a service with the demo course, on a database of its own that goes with it.
#
#   own_service DIR PORT   starts both; sets address. The first free port from PORT on is taken.
#   end_own_service        ends them and forgets the data

own_service() {
  own_dir=$1
  local port=$2
  scripts/postgres.sh remove "$own_dir" 2>/dev/null || true
  CELANDINE_DATABASE=$(scripts/postgres.sh start "$own_dir")
  export CELANDINE_DATABASE
  bin/celandine course load courses/glasshouse --password glasshouse >/dev/null
  while (exec 3<>"/dev/tcp/127.0.0.1/$port") 2>/dev/null; do port=$((port + 1)); done
  bin/celandine serve --listen "127.0.0.1:$port" --sign-ins 1000 --hand-ins 0 ${own_arguments:-} 2>/dev/null &
  own_process=$!
  for _ in $(seq 100); do
    (exec 3<>"/dev/tcp/127.0.0.1/$port") 2>/dev/null && break
    sleep 0.1
  done
  address=http://127.0.0.1:$port
}

end_own_service() {
  kill "${own_process:-}" 2>/dev/null || true
  wait "${own_process:-}" 2>/dev/null || true
  scripts/postgres.sh remove "$own_dir"
}
