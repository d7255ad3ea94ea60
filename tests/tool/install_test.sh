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

# Without components all that is installed is there; one that there is not is named; a machine finds what it needs.
try() {  # what the project asks for, and what it then does
  mkdir -p "$work/try"
  printf 'cmake_minimum_required(VERSION 3.25)\nproject(t LANGUAGES CXX)\nfind_package(mobrin REQUIRED %s)\n%s\n' "$1" "$2" >"$work/try/CMakeLists.txt"
  cmake -S "$work/try" -B "$work/try/build" -G Ninja -DCMAKE_PREFIX_PATH="$work/prefix" -DCMAKE_CXX_COMPILER="$compiler" >"$work/log" 2>&1
}
try "" 'foreach(c core contact pack probe check io prove draw live)
if(NOT TARGET mobrin::${c})
message(FATAL_ERROR "no ${c}")
endif()
endforeach()'
if try "COMPONENTS core sound" ""; then echo "an unknown component is found"; exit 1; fi
grep -q 'no component "sound"; it has core, contact, pack' "$work/log"
printf '#include "hive.hpp"\nint main() { const auto hive = Hive::load(); mobrin::Instance one(hive->machine); return one.done(); }\n' >"$work/main.cpp"
try "COMPONENTS core" "add_executable(t \"$work/main.cpp\")
mobrin_add_machine(t \"$work/prefix/share/mobrin/demo/apiary/hive.yaml\" CLASS Hive)"
cmake --build "$work/try/build" >/dev/null
"$work/try/build/t"

# A machine that uses what lies above it says so.
mkdir -p "$work/up/inner"
printf 'mobrin: 1\nclips: {c: {length: 1s}}\n' >"$work/up/c.yaml"
printf 'mobrin: 1\nmachine: inner\nuse: [../c.yaml]\nstates: {a: {clip: c}}\n' >"$work/up/inner/inner.yaml"
printf '#include "inner.hpp"\nint main() { return inner::load() ? 0 : 1; }\n' >"$work/main.cpp"
try "" "add_executable(t \"$work/main.cpp\")
mobrin_add_machine(t \"$work/up/inner/inner.yaml\")"
if cmake --build "$work/try/build" >"$work/log" 2>&1; then echo "a name leads out of the folder"; exit 1; fi
grep -q 'outside-folder' "$work/log"
try "" "add_executable(t \"$work/main.cpp\")
mobrin_add_machine(t \"$work/up/inner/inner.yaml\" ALLOW_OUTSIDE)"
cmake --build "$work/try/build" >/dev/null
"$work/try/build/t"

# In C, by way of pkg-config and of CMake.
"$work/prefix/bin/mobrin" pack "$work/prefix/share/mobrin/demo/apiary/hive.yaml" -o "$work/hive.pack" >/dev/null
libraries=$(dirname "$(find "$work/prefix" -name libmobrin.so)")
export PKG_CONFIG_PATH="$libraries/pkgconfig"
cc -std=c99 -Wall -Werror "$consumer/game.c" $(pkg-config --cflags --libs libmobrin) -o "$work/game"
LD_LIBRARY_PATH="$libraries" "$work/game" "$work/hive.pack" | grep -q opening
pkg-config --modversion libmobrin_files >/dev/null
printf 'cmake_minimum_required(VERSION 3.25)\nproject(t LANGUAGES C CXX)\nfind_package(mobrin REQUIRED COMPONENTS c)\nadd_executable(t "%s")\ntarget_link_libraries(t PRIVATE mobrin::c)\n' "$consumer/game.c" >"$work/try/CMakeLists.txt"
rm -rf "$work/try/build"
cmake -S "$work/try" -B "$work/try/build" -G Ninja -DCMAKE_PREFIX_PATH="$work/prefix" >/dev/null
cmake --build "$work/try/build" >/dev/null
"$work/try/build/t" "$work/hive.pack" >/dev/null

# Inside another project no package is asked for, by FetchContent as by add_subdirectory; ./dev embed builds it.
for fetch in ON OFF; do
  cmake -S "$consumer/embed" -B "$work/embed_$fetch" -G Ninja -DFETCH=$fetch -DMOBRIN="$consumer/../.." -DCMAKE_CXX_COMPILER="$compiler" >/dev/null
done

# A misspelt name is an error of the compiler, and a machine with an error stops the build.
sed 's/smoker_lit/smoker_lid/' "$consumer/packed.cpp" >"$work/misspelt.cpp"
if "$compiler" -std=c++20 -fsyntax-only -I "$work/prefix/include" -I "$work/consumer/machines" "$work/misspelt.cpp" 2>/dev/null; then
  echo "a misspelt input compiles"; exit 1
fi
printf 'mobrin: 1\nmachine: m\nstates: {a: {go: [{to: b}]}}\n' >"$work/wrong.yaml"
if "$work/prefix/bin/mobrin" pack "$work/wrong.yaml" --cpp "$work/wrong.hpp" 2>"$work/log"; then echo "a wrong machine is packed"; exit 1; fi
grep -q 'there is no state "b"' "$work/log"
test ! -e "$work/wrong.hpp"
