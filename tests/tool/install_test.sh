#!/usr/bin/env bash
# Installs into a temporary prefix, builds a tiny consumer against the package there, and runs the installed tool.
set -euo pipefail
build=$1 consumer=$2 compiler=$3
work=$(mktemp -d)
trap 'rm -rf "$work"' EXIT
cmake --install "$build" --prefix "$work/prefix" >/dev/null
cmake -S "$consumer" -B "$work/consumer" -G Ninja -DCMAKE_PREFIX_PATH="$work/prefix" -DCMAKE_CXX_COMPILER="$compiler" -DDEMO="$work/prefix/share/mobrin/demo/apiary" >/dev/null
cmake --build "$work/consumer" >/dev/null
"$work/consumer/core_only"
"$work/consumer/packed"
"$work/consumer/with_files" "$work/prefix/share/mobrin/demo/apiary/keeper.yaml"
"$work/consumer/watched" "$work/prefix/share/mobrin/demo/apiary/keeper.yaml"
cd "$work"
"$work/prefix/bin/mobrin" demo --out "$work/pictures" >"$work/log"
grep -q "picture" "$work/log"
test -s "$work/pictures/keeper_sheet.png"
test -s "$work/prefix/share/mobrin/mobrin.schema.json"

# A misspelt name is an error of the compiler, and a machine with an error stops the build.
sed 's/smoker_lit/smoker_lid/' "$consumer/packed.cpp" >"$work/misspelt.cpp"
if "$compiler" -std=c++20 -fsyntax-only -I "$work/prefix/include" -I "$work/consumer/machines" "$work/misspelt.cpp" 2>/dev/null; then
  echo "a misspelt input compiles"; exit 1
fi
printf 'mobrin: 1\nmachine: m\nstates: {a: {go: [{to: b}]}}\n' >"$work/wrong.yaml"
if "$work/prefix/bin/mobrin" pack "$work/wrong.yaml" --cpp "$work/wrong.hpp" 2>"$work/log"; then echo "a wrong machine is packed"; exit 1; fi
grep -q 'there is no state "b"' "$work/log"
test ! -e "$work/wrong.hpp"
