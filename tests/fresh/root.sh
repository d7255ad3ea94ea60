#!/usr/bin/env bash
# Follows README.md and docs/guide/ in a Debian that has nothing on it but its smallest set of packages. As root, for it
# changes into that Debian: tests/fresh/root.sh [FOLDER]. Takes about 20 minutes; what is committed is followed.
set -euo pipefail
here=$(cd "$(dirname "$0")/../.." && pwd)
root=${1:-$here/out/fresh}
suite=$(. /etc/os-release && echo "${VERSION_CODENAME:-bookworm}")

[ -d "$root/etc" ] || debootstrap --variant=minbase "$suite" "$root" "${MOBRIN_DEBIAN:-http://deb.debian.org/debian}" >/dev/null
mounted=()
leave() {
  for ((i = ${#mounted[@]} - 1; i >= 0; i--)); do umount -l "$root/${mounted[i]}" || true; done
}
trap leave EXIT
mount -t proc proc "$root/proc" && mounted+=(proc)
mount --rbind /dev "$root/dev" && mount --make-rslave "$root/dev" && mounted+=(dev)
cp /etc/resolv.conf /etc/hosts "$root/etc/"
rm -rf "$root/root/mobrin"
git clone -q "$here" "$root/root/mobrin"
in_it() { chroot "$root" env -i HOME=/root LANG=C.UTF-8 PATH=/usr/local/sbin:/usr/local/bin:/usr/sbin:/usr/bin:/sbin:/bin bash -c "cd /root/mobrin && $1"; }

# The two commands that README begins with, as they stand there.
awk '/^```sh/ {inside = 1; next} /^```/ {if (inside) exit} inside' "$here/README.md" | while IFS= read -r line; do
  echo "== ${line%%#*}"
  in_it "${line%%#*}" </dev/null
done
# Everything that the pages show to be typed.
in_it "python3 tests/fresh/follow.py" </dev/null
