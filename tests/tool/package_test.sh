#!/usr/bin/env bash
# Makes a Debian package of what was built, unpacks it into an empty root, and uses what is in there.
set -euo pipefail
build=$1
work=$(mktemp -d)
trap 'rm -rf "$work"' EXIT
cd "$work"
cpack --config "$build/CPackConfig.cmake" -D CPACK_PACKAGE_DIRECTORY="$work/made" >"$work/log" 2>&1 || { cat "$work/log"; exit 1; }
deb=$(echo "$work"/made/mobrin_*.deb)
dpkg-deb -f "$deb" Package Version Depends >"$work/fields"
grep -q '^Package: mobrin$' "$work/fields"
grep -q 'libyaml-cpp' "$work/fields"   # what it needs is found from what it links
# Installed by dpkg itself, into a root of its own.
root=$work/root
mkdir -p "$root/var/lib/dpkg/info" "$root/var/lib/dpkg/updates"
touch "$root/var/lib/dpkg/status"
dpkg --root="$root" --force-not-root --force-script-chrootless --force-depends --log="$work/dpkg.log" -i "$deb" >"$work/log" 2>&1 || { cat "$work/log"; exit 1; }
dpkg --root="$root" -s mobrin | grep -q '^Status: install ok installed'
tool=$root/usr/bin/mobrin
"$tool" --version
"$tool" check "$root/usr/share/mobrin/demo/apiary/keeper.yaml"
"$tool" new bee >/dev/null && "$tool" test bee
# Each command has a page, and completions know it.
for command in $("$tool" --help | sed -n 's/^  \([a-z][a-z]*\)  .*/\1/p'); do
  test -s "$root/usr/share/man/man1/mobrin-$command.1"
  grep -q " $command\b" "$root/usr/share/bash-completion/completions/mobrin" || { echo "no completion of $command"; exit 1; }
  grep -q -- "-a $command " "$root/usr/share/fish/vendor_completions.d/mobrin.fish"
  grep -q "'$command:" "$root/usr/share/zsh/vendor-completions/_mobrin"
done
bash -c "source $root/usr/share/bash-completion/completions/mobrin; COMP_WORDS=(mobrin im) COMP_CWORD=1; _mobrin; test \"\${COMPREPLY[*]}\" = import
  COMP_WORDS=(mobrin check --sa) COMP_CWORD=2; _mobrin; test \"\${COMPREPLY[*]}\" = --sarif"
# And again: it goes as it came.
dpkg --root="$root" --force-not-root --force-script-chrootless --log="$work/dpkg.log" -r mobrin >/dev/null
test ! -e "$tool"
