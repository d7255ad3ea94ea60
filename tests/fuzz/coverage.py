"""Which lines of the library each door from outside reaches: tests/fuzz/coverage.py CORPUS_PROGRAM FOLDER...

Opens each door with the files that lie in the folders under its name, and prints, for each of the files that the door is
there for, the lines reached of all that can run. Built by ./dev coverage (clang's own counting of source regions).
Exits with 1 where the loaders reach less than 90 in a hundred lines together."""
import json
import os
import pathlib
import subprocess
import sys

# What each door is there for. A file may be reached by several.
DOORS = {
    "machine": ["io/load.cpp", "io/load_clips.cpp", "io/load_marks.cpp", "io/load_names.cpp", "io/load_space.cpp",
                "io/load_states.cpp", "io/reader.cpp", "io/yaml_tree.cpp"],
    "art": ["io/load_clips.cpp", "io/load_sheets.cpp", "io/clip_pictures.cpp", "io/image.cpp"],
    "imports": ["io/load_sheets.cpp", "io/import.cpp", "io/import_files.cpp", "io/import_merge.cpp", "io/import_names.cpp", "io/import_timing.cpp",
                "io/clips_text.cpp", "io/clips_file.cpp", "io/marks_follow.cpp"],
    "tape": ["io/tape.cpp"],
    "pack": ["pack/pack.cpp", "pack/check_tables.cpp"],
    "save": ["io/save.cpp"],
    "png": ["io/image.cpp"],
    "animation": ["io/animation.cpp", "io/gif.cpp"],
    "webp": ["io/webp.cpp"],
    "gltf": ["io/gltf.cpp"],
    "expression": ["core/expression/expression_parse.cpp", "core/expression/expression_compile.cpp"],
    "scene": ["io/scene_load.cpp"],
    "marks": ["io/marks_edit.cpp", "io/yaml_edit.cpp"],
    "clips": ["io/clip_edit.cpp", "io/shape_edit.cpp", "io/yaml_edit.cpp"],
    "lives": ["core/instance/carry.cpp", "core/instance/save_instance.cpp", "core/crowd/crowd_bytes.cpp"],
    "calls": ["core/instance/instance.cpp", "core/crowd/crowd.cpp", "core/crowd/crowd_write.cpp"],
    "meetings": ["contact/arena.cpp", "contact/contacts.cpp", "contact/reach.cpp", "contact/zones.cpp"],
    "agree": ["core/engine/engine.cpp", "core/engine/settle.cpp", "core/engine/quick.cpp"],
    "definitions": ["core/compile/compile_values.cpp", "core/compile/compile_clips.cpp", "core/compile/compile_go.cpp",
                    "core/compile/compile_plays.cpp", "core/compile/compile_tree.cpp"],
    "page_commands": ["live/session.cpp", "live/session_past.cpp", "live/host.cpp"],
    "page_files": ["live/worker.cpp", "live/worker_edit.cpp"],
    "game_messages": ["live/attach.cpp"],
    "page_messages": ["probe/probe.cpp", "probe/wire.cpp"],
}
# What reads files and texts from outside.
LOADERS = ["machine", "art", "tape", "pack", "save", "png", "animation", "webp", "gltf", "expression", "scene"]


def lines_of(program, profile, source):
    """(reached, all) lines by source file, relative to src/."""
    report = json.loads(subprocess.run(["llvm-cov", "export", "-summary-only", f"-instr-profile={profile}", program],
                                       check=True, capture_output=True, text=True).stdout)
    out = {}
    for each in report["data"][0]["files"]:
        path = os.path.relpath(each["filename"], source)
        out[path] = (each["summary"]["lines"]["covered"], each["summary"]["lines"]["count"])
    return out


def main():
    program, folders = sys.argv[1], [pathlib.Path(each) for each in sys.argv[2:]]
    source = pathlib.Path(__file__).resolve().parents[2] / "src"
    out = pathlib.Path("out/coverage")
    out.mkdir(parents=True, exist_ok=True)
    doors = subprocess.run([program, "--doors"], check=True, capture_output=True, text=True).stdout.split()
    missing = [door for door in doors if door not in DOORS]
    if missing:
        sys.exit(f"these doors are not in the table of {__file__}: {', '.join(missing)}")
    profiles, rows = [], []
    for door in doors:
        own = [folder / door for folder in folders if (folder / door).is_dir()]
        raw, profile = out / f"{door}.profraw", out / f"{door}.profdata"
        raw.unlink(missing_ok=True)
        ran = subprocess.run([program, *own], env={**os.environ, "LLVM_PROFILE_FILE": str(raw)}, capture_output=True, text=True)
        if ran.returncode != 0:
            sys.exit(f"{door} ended with {ran.returncode} at {ran.stderr.splitlines()[-1:]}")
        subprocess.run(["llvm-profdata", "merge", "-sparse", raw, "-o", profile], check=True)
        raw.unlink()
        profiles.append(profile)
        lines = lines_of(program, profile, source)
        parts = [f"{path.split('/')[-1]} {100 * lines[path][0] // lines[path][1]}%" for path in DOORS[door]]
        reached, count = (sum(lines[path][i] for path in DOORS[door]) for i in (0, 1))
        rows.append((door, ran.stdout.split()[0], f"{100 * reached / count:.0f}%", ", ".join(parts)))
        print(f"| {' | '.join(rows[-1])} |", flush=True)
    everything = out / "all.profdata"
    subprocess.run(["llvm-profdata", "merge", "-sparse", *profiles, "-o", everything], check=True)
    lines = lines_of(program, everything, source)
    loaders = sorted({path for door in LOADERS for path in DOORS[door]})
    reached, count = (sum(lines[path][i] for path in loaders) for i in (0, 1))
    print(f"The loaders, by all doors: {reached} of {count} lines, {100 * reached / count:.1f}%")
    for path in loaders:
        if lines[path][0] * 10 < lines[path][1] * 9:
            print(f"  below 90%: {path} {lines[path][0]} of {lines[path][1]}")
    return 0 if reached * 10 >= count * 9 else 1


sys.exit(main())
