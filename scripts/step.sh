# Sourced: work that takes long says what it does, how long it usually takes and how far it is; what the programs beneath print is
# kept in .celandine/setup.log, and its end shown where one fails.
#
#   step WHAT USUALLY TOTAL COMMAND…   TOTAL is how many lines COMMAND prints in all, or ""

setup_log=$PWD/.celandine/setup.log
mkdir -p "$PWD/.celandine"

step() {
  local what=$1 usually=$2 total=$3 began=$SECONDS work=0 lines
  shift 3
  printf '%s (usually %s) …\n' "$what" "$usually"
  : >"$setup_log"
  "$@" >"$setup_log" 2>&1 </dev/null &
  work=$!
  while kill -0 "$work" 2>/dev/null; do
    sleep 0.2
    if [ $((SECONDS - began)) -gt 0 ] && [ $(((SECONDS - began) % 5)) -eq 0 ] && [ "${told:-}" != "$SECONDS" ]; then
      told=$SECONDS
      lines=$(wc -l <"$setup_log")
      [ -z "$total" ] || [ "$lines" -gt "$total" ] || printf '  %s of at most %s, ' "$lines" "$total"
      [ -n "$total" ] && [ "$lines" -le "$total" ] || printf '  '
      printf '%s s so far\n' $((SECONDS - began))
    fi
  done
  if wait "$work"; then
    printf '  done in %s s\n' $((SECONDS - began))
    return 0
  fi
  tail -n 40 "$setup_log" >&2
  echo "$what did not work; the lines above say why." >&2
  return 1
}
