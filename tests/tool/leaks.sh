#!/usr/bin/env bash
# Runs the tool's commands over the demo; a tool that was built with the sanitizers ends with another code where
# anything leaks: leaks.sh TOOL
set -euo pipefail
tool=$(realpath "$1")
cd "$(dirname "$0")/../../demo/apiary"
place=$(mktemp -d)
trap 'rm -rf "$place"' EXIT
run() {  # the codes that are fine, then the command
  local code=0
  "$tool" "${@:2}" >"$place/said" 2>&1 || code=$?
  case ",$1," in *",$code,"*) ;; *) cat "$place/said"; echo "mobrin ${*:2}: $code"; exit 1 ;; esac
}
for each in keeper hornet hive smoker puff; do
  run 0,1 check "$each.yaml"
  run 0 list "$each.yaml" --json
  run 0 pack "$each.yaml" -o "$place/m.pack" --cpp "$place/m.hpp"
done
run 0 draw keeper.yaml -o "$place/graph.svg"
run 0 draw dusk.scene.yaml --at 2s -o "$place/stage.png"
run 0 sheet keeper.yaml -o "$place/sheet.png"
run 0 run keeper.tape.yaml --picture "$place/lanes.png"
run 0 run dusk.scene.yaml --json
run 0 explain keeper.tape.yaml --at 1s
run 0 marks keeper.yaml --clip net
run 0,1 prove keeper.yaml
run 0 cover smoker.yaml -o "$place/tapes"
run 0 test keeper.tape.yaml blow.tape.yaml
run 0 import keeper.png --tile 48x40 --row 1:walk -o "$place/new.clips.yaml" --allow-outside
run 0 new drone -o "$place/drone"
run 0 schema
run 0 manual -o "$place/manual"
printf 'mobrin: 1\nmachine: m\nstates: {a: {clip: gone, go: [{to: nowhere}, {when: 1 +, to: a}]}}\n' >"$place/wrong.yaml"
run 1 check "$place/wrong.yaml"
printf 'mobrin: 1\nmachine: [\n' >"$place/broken.yaml"
run 1 check "$place/broken.yaml"
run 1 run "$place/broken.yaml"
run 2 run
echo "no command leaks"
