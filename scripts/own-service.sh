# Sourced: the demo course served with a database of its own, which goes with it.
#
#   own_service DIR PORT   starts both; sets address and CELANDINE_DATABASE. The first free port from PORT on is taken.
#   end_own_service        ends them and forgets the data

own_service() {
  own_dir=$1
  bin/celandine demo --data "$own_dir" --forget >/dev/null
  # shellcheck disable=SC2086  # several arguments
  bin/celandine demo --data "$own_dir" --listen "127.0.0.1:$2" --sign-ins 1000 --hand-ins 0 ${own_arguments:-} >/dev/null &
  own_process=$!
  until [ -s "$own_dir/address" ]; do
    kill -0 "$own_process" 2>/dev/null || { echo "The service did not start." >&2; return 1; }
    sleep 0.1
  done
  address=$(cat "$own_dir/address")
  CELANDINE_DATABASE=$(go run ./cmd/own-postgres start "$own_dir/postgres")
  export CELANDINE_DATABASE
}

end_own_service() {
  kill "${own_process:-}" 2>/dev/null || true
  wait "${own_process:-}" 2>/dev/null || true
  bin/celandine demo --data "$own_dir" --forget >/dev/null
}
