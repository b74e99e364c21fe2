#!/usr/bin/env bash
# Tries the two commands of the README in a bare Debian 12: nothing but python3 and git, no caches, no Node.
#
#   setup/try_bare.sh DIRECTORY [test]     as root; DIRECTORY is made anew and may be thrown away afterwards
#
# Takes the machine's own Debian mirror and installer settings along. Prints how long each step took.
set -euo pipefail
root="${1:?a directory to build the bare system in}"
what="${2:-demo}"
here="$(cd "$(dirname "${BASH_SOURCE[0]}")/.." && pwd)"
mirror="$(sed -n 's/^URIs: *//p' /etc/apt/sources.list.d/debian.sources 2>/dev/null | head -n 1)"
command -v debootstrap >/dev/null || apt-get install -y -q --no-install-recommends debootstrap

step() {
  local began=$SECONDS
  "${@:2}"
  echo "· $1: $((SECONDS - began)) s"
}

if [ ! -x "$root/usr/bin/python3" ]; then
  step "bare Debian" debootstrap --variant=minbase --include=python3,git,ca-certificates bookworm "$root" $mirror >/dev/null
fi
for file in /etc/resolv.conf /etc/hosts /etc/pip.conf /etc/ssl/certs/ca-certificates.crt; do
  if [ -e "$file" ]; then install -D "$(readlink -f "$file")" "$root$file"; fi
done
cp -r /etc/apt/apt.conf.d/. "$root/etc/apt/apt.conf.d/" 2>/dev/null || true
cp /etc/apt/sources.list.d/debian.sources "$root/etc/apt/sources.list.d/" 2>/dev/null && rm -f "$root/etc/apt/sources.list"
[ -e "$HOME/.npmrc" ] && cp "$HOME/.npmrc" "$root/root/.npmrc"
mountpoint -q "$root/proc" || mount -t proc proc "$root/proc"
mountpoint -q "$root/dev" || mount --rbind /dev "$root/dev"
trap 'umount -l "$root/proc" "$root/dev" 2>/dev/null || true' EXIT

rm -rf "$root/srv/jorvek"
git clone -q --no-hardlinks "$here" "$root/srv/jorvek"
inside() {
  local kept=(HOME=/root PATH=/usr/sbin:/usr/bin:/sbin:/bin LANG=C.UTF-8)
  for name in PIP_CERT SSL_CERT_FILE NODE_EXTRA_CA_CERTS http_proxy https_proxy no_proxy; do
    [ -n "${!name:-}" ] && kept+=("$name=${!name}")
  done
  chroot "$root" env -i "${kept[@]}" sh -c "cd /srv/jorvek && $1"
}
inside "command -v node npm mariadbd chromium && exit 1; python3 -c 'import ensurepip' 2>/dev/null && exit 1; true" ||
  { echo "This root is not bare any more: take another directory." >&2; exit 1; }

demo() {
  inside './jorvek demo >/tmp/demo.log 2>&1 & program=$!
    until grep -q "^http\|http://" /tmp/demo.log || ! kill -0 $program 2>/dev/null; do sleep 0.2; done
    cat /tmp/demo.log
    address=$(grep -o "http://127[^ ]*" /tmp/demo.log | head -n 1)
    python3 -c "import sys, urllib.request as u; print(u.urlopen(sys.argv[1] + \"/api/health\").read().decode())" "$address"
    kill $program; wait $program || true'
}
step "./jorvek demo, from nothing to an answer" demo
if [ "$what" = test ]; then step "./jorvek test" inside "./jorvek test"; fi
