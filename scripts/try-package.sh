#!/usr/bin/env bash
# Tries the Debian package as a stranger would: on a bare Debian root, PostgreSQL's packages at hand, no network. From apt install to the address that the demo prints,
# the role and the database, the service on them; removed, the records stay; purged, they are gone.
#
# It needs root, debootstrap and release/out; where it is not possible it says so and exits 0 with --if-possible.
set -euo pipefail
cd "$(dirname "$0")/.."

impossible() {
  echo "The package is not tried here: $1."
  [ -n "$lenient" ] # the exit status
  exit
}
lenient=
[ "${1:-}" != --if-possible ] || lenient=yes
[ "$(id -u)" -eq 0 ] || impossible "making a bare root needs root"
command -v debootstrap >/dev/null || impossible "debootstrap is not installed"
unshare --mount --net --pid --fork true 2>/dev/null || impossible "this kernel gives no namespaces"
package=$(ls "$PWD"/release/out/celandine_*_"$(dpkg --print-architecture)".deb 2>/dev/null) || impossible "there is no package in release/out; make release makes it"

. scripts/step.sh
root=$(mktemp -d /var/tmp/celandine-bare.XXXXXX)
trap 'rm -rf "$root"' EXIT
kept=$PWD/.tools/bare.tar

bare() {
  find "$root" -mindepth 1 -delete
  debootstrap --variant=minbase --include=ca-certificates "$(. /etc/os-release && echo "$VERSION_CODENAME")" "$root"
  cp /etc/resolv.conf "$root/etc/"
  chroot "$root" apt-get -q update
  chroot "$root" apt-get -q install -y --download-only postgresql
  tar -C "$root" -cf "$kept.new" .
  mv "$kept.new" "$kept"
}
if [ -f "$kept" ]; then
  tar -C "$root" -xf "$kept"
else
  mkdir -p .tools
  step "Making a bare Debian root with PostgreSQL's packages at hand" "1 min" "" bare
fi
chmod 755 "$root"
cp "$package" "$root/"
# The page's own commands: those of a block with a name, each with the first line that it is to print.
page_block() { awk -v name="$1" '$0 == "```" name { on = 1; next } $0 == "```" { on = 0 } on' docs/operating.md; }
for name in root root-last; do page_block "sh $name" >"$root/$name-block"; done
[ -s "$root/root-block" ] && [ -s "$root/root-last-block" ] || { echo "docs/operating.md has no commands to follow." >&2; exit 1; }

cat >"$root/try" <<'END'
set -euo pipefail
export DEBIAN_FRONTEND=noninteractive LC_ALL=C.UTF-8 PATH=/usr/local/sbin:/usr/local/bin:/usr/sbin:/usr/bin:/sbin:/bin
mount -t proc proc /proc
mount -t devtmpfs dev /dev 2>/dev/null || true
mkdir -p /dev/shm /dev/pts && mount -t tmpfs tmpfs /dev/shm && mount -t devpts devpts /dev/pts
# Loopback up, by what is on every Debian (SIOCSIFFLAGS, IFF_UP).
perl -MSocket -e 'socket(S, AF_INET, SOCK_DGRAM, 0) && ioctl(S, 0x8914, my $up = pack("a16s", "lo", 1)) or die $!'
cd /

# follow COMMAND SAYS: does what the page says, and holds the first line that it prints to the page; "…" stands for anything.
follow() {
  echo "\$ $1"
  bash -c "$1" >/said 2>&1 || { cat /said; echo "It failed."; exit 1; }
  local first
  first=$(head -n 1 /said)
  # shellcheck disable=SC2053  # a pattern
  [[ $first == ${2//…/*} ]] || { cat /said; echo "The page says: $2"; exit 1; }
}
page() {
  local command= line
  while IFS= read -r line; do
    case $line in
    '$ '*)
      [ -z "$command" ] || follow "$command" '…'
      command=${line#'$ '}
      ;;
    *)
      follow "$command" "$line"
      command=
      ;;
    esac
  done <"$1"
  [ -z "$command" ] || follow "$command" '…'
}
sql() { (cd / && runuser -u postgres -- psql -XAtq -d postgres -c "$1"); }

began=$(date +%s%N)
grep -A1 'apt-get install' /root-block >/install
page /install
celandine demo >/demo.log 2>&1 &
demo=$!
until grep -q 'Celandine is at' /demo.log; do
  kill -0 $demo || { cat /demo.log; exit 1; }
  sleep 0.1
done
took=$((($(date +%s%N) - began) / 100000000))
echo "from apt install to the address: $((took / 10)).$((took % 10)) s"
kill -INT $demo
wait $demo

# No init runs here, so nobody has started Debian's own PostgreSQL.
pg_ctlcluster 15 main status >/dev/null 2>&1 || pg_ctlcluster 15 main start
dpkg-reconfigure celandine
[ "$(sql "SELECT pg_get_userbyid(datdba) FROM pg_database WHERE datname = 'celandine'")" = celandine ]
echo "the role and its database are there"
page /root-block
CELANDINE_CONFIG=/etc/celandine.yaml runuser -u celandine -- celandine serve 2>/service.log &
service=$!
until (exec 3<>/dev/tcp/127.0.0.1/8460) 2>/dev/null; do
  kill -0 $service || { cat /service.log; exit 1; }
  sleep 0.1
done
echo "the service answers as the package sets it"
kill -TERM $service
wait $service || true # ended by the signal
head -n 2 /root-last-block >/remove
page /remove
[ "$(sql "SELECT count(*) FROM pg_database WHERE datname = 'celandine'")" = 1 ] && [ -e /etc/celandine.yaml ]
echo "removed: the records and the settings stay"
page /root-last-block
[ "$(sql "SELECT count(*) FROM pg_database WHERE datname = 'celandine'")" = 0 ]
[ ! -e /etc/celandine.yaml ] && ! getent passwd celandine
echo "purged: the records, the settings and the user are gone"
pg_ctlcluster 15 main stop -m fast
END
unshare --mount --net --pid --fork chroot "$root" bash /try
