#!/usr/bin/env bash
# Whether two builds of the tool run the demo and pack it alike, bit for bit: alike.sh ONE OTHER
set -euo pipefail
cd "$(dirname "$0")/../.."
place=$(mktemp -d)
trap 'rm -rf "$place"' EXIT
runs=0
for file in demo/apiary/*.tape.yaml demo/apiary/*.scene.yaml; do
  for rate in 24 60 90; do
    "$1" run "$file" --json --rate "$rate" >"$place/one"
    "$2" run "$file" --json --rate "$rate" >"$place/other"
    cmp "$place/one" "$place/other"
    runs=$((runs + 1))
  done
done
for machine in keeper hornet hive smoker puff; do
  "$1" pack "demo/apiary/$machine.yaml" -o "$place/one.pack" >/dev/null
  "$2" pack "demo/apiary/$machine.yaml" -o "$place/other.pack" >/dev/null
  cmp "$place/one.pack" "$place/other.pack"
done
echo "$1 and $2: $runs runs and 5 packs alike, bit for bit"
