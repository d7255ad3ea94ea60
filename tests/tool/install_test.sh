#!/usr/bin/env bash
# Installs into a temporary prefix, builds a tiny consumer against the package there, and runs the installed tool.
set -euo pipefail
build=$1 consumer=$2 compiler=$3
work=$(mktemp -d)
trap 'rm -rf "$work"' EXIT
cmake --install "$build" --prefix "$work/prefix" >/dev/null
cmake -S "$consumer" -B "$work/consumer" -G Ninja -DCMAKE_PREFIX_PATH="$work/prefix" -DCMAKE_CXX_COMPILER="$compiler" >/dev/null
cmake --build "$work/consumer" >/dev/null
"$work/consumer/core_only"
"$work/consumer/with_files" "$work/prefix/share/mobrin/demo/apiary/keeper.yaml"
cd "$work"
"$work/prefix/bin/mobrin" demo --out "$work/pictures" >"$work/log"
grep -q "picture" "$work/log"
test -s "$work/pictures/keeper_sheet.png"
test -s "$work/prefix/share/mobrin/mobrin.schema.json"
