#!/usr/bin/env bash
# One door for so many seconds: tests/fuzz/one.sh BUILD DOOR SECONDS MOST, so many at most for one answer. See ./dev fuzz.
# What the fuzzer itself would spend most time with is left out: rare features counted, deep stacks of allocations kept,
# much of what was freed.
set -euo pipefail
cd "$(dirname "$0")/../.."
build=$1 door=$2 seconds=$3 most=$4
mkdir -p "out/fuzz/$door" "out/fuzz/finds/$door"
starts=("out/fuzz/$door")
for each in "tests/corpus/$door" "tests/fuzz/seeds/$door" "out/seeds/$door"; do
  if [ -d "$each" ]; then starts+=("$each"); fi
done
words=()
if [ -f "tests/fuzz/$door.dict" ]; then words=("-dict=tests/fuzz/$door.dict"); fi
code=0
MOBRIN_DOOR=$door MOBRIN_DEMO_FOLDER=$PWD/demo/apiary ASAN_OPTIONS=detect_leaks=1:malloc_context_size=2:quarantine_size_mb=8 LSAN_OPTIONS=suppressions=$PWD/tests/lsan.supp:print_suppressions=0 \
  "$build/tests/fuzz/mobrin_fuzzer" "${starts[@]}" "${words[@]}" -entropic=0 -max_total_time="$seconds" -timeout="$most" -report_slow_units="$most" -rss_limit_mb=1024 -malloc_limit_mb=512 -max_len=20000 \
  -print_final_stats=1 -artifact_prefix="out/fuzz/finds/$door/" >"out/fuzz/$door.log" 2>&1 || code=1
echo "$door: $(grep -o 'number_of_executed_units: .*' "out/fuzz/$door.log" || echo 'stopped') $(find "out/fuzz/finds/$door" -type f | wc -l) finds"
[ "$code" -eq 0 ] || tail -60 "out/fuzz/$door.log" | grep -E 'ERROR|SUMMARY|not so|Test unit' || true
exit $code
