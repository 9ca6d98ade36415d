#!/usr/bin/env bash
# Installs the Debian packages named as arguments that are missing. As root it
# just does; another user needs them there already, or sudo without a password.
set -euo pipefail

missing=()
for package in "$@"; do
  status=$(dpkg-query -W -f='${Status}' "$package" 2>/dev/null || true)
  [ "$status" = "install ok installed" ] || missing+=("$package")
done
[ ${#missing[@]} -eq 0 ] && exit 0

as_root=()
if [ "$(id -u)" -ne 0 ]; then
  if ! sudo -n true 2>/dev/null; then
    echo "These Debian packages are missing: ${missing[*]}" >&2
    echo "Install them as root, then run this again:  apt-get install -y ${missing[*]}" >&2
    exit 1
  fi
  as_root=(sudo -n)
fi
echo "Installing ${missing[*]} …"
log=$(mktemp)
install() {
  "${as_root[@]}" env DEBIAN_FRONTEND=noninteractive apt-get -q -o DPkg::Lock::Timeout=300 update
  "${as_root[@]}" env DEBIAN_FRONTEND=noninteractive apt-get -q -o DPkg::Lock::Timeout=300 install -y --no-install-recommends "${missing[@]}"
}
if ! install >"$log" 2>&1; then
  tail -n 20 "$log" >&2
  echo "Installing failed; the lines above say why." >&2
  exit 1
fi
rm -f "$log"
