#!/usr/bin/env bash
# Builds the game part inside another project, by add_subdirectory, and runs a program in C++ and one in C there.
set -euo pipefail
cd "$(dirname "$0")/../.."
tool=$1
work=$(mktemp -d)
trap 'rm -rf "$work"' EXIT
"$tool" pack demo/apiary/hive.yaml -o "$work/hive.pack" >/dev/null
cmake -S tests/consumer/embed -B "$work/embed" -G Ninja -DMOBRIN="$PWD" >/dev/null
cmake --build "$work/embed" --target embedded embedded_c >/dev/null
"$work/embed/embedded" | grep -q 'damage 2'
"$work/embed/embedded_c" "$work/hive.pack" | grep -q opening
