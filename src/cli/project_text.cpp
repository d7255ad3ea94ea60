#include "project_text.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cctype>

#include "mobrin/io/words.hpp"

namespace mobrin::cli {
namespace {

// What artists call it, the likeliest first.
const std::array<std::vector<std::string_view>, kRoles.size()> kWords{{
    {"stand", "idle", "rest", "wait", "hover", "still"},
    {"move", "walk", "run", "fly", "crawl", "go", "step"},
    {"act", "attack", "strike", "swing", "net", "dive", "hit", "throw", "cast", "use", "work"},
    {"hurt", "stung", "damage", "damaged", "pain", "stunned", "stun", "flinch"},
    {"down", "death", "die", "dead", "dying", "faint", "fall", "collapse", "sag"},
}};

// The words of a name, in small letters: `Keeper_WalkLeft2` is keeper, walk, left.
std::vector<std::string> words_of(std::string_view name) {
  std::vector<std::string> words(1);
  char before = 0;
  for (const char c : name) {
    const auto letter = static_cast<unsigned char>(c);
    if (std::isalpha(letter) == 0 ||
        (std::isupper(letter) != 0 && std::islower(static_cast<unsigned char>(before)) != 0))
      if (!words.back().empty()) words.emplace_back();
    if (std::isalpha(letter) != 0) words.back() += static_cast<char>(std::tolower(letter));
    before = c;
  }
  return words;
}

std::string machine_text(const Project& p) {
  const auto clip = [&](Role role) { return quoted(p.shows[role]); };
  std::string out =
      fmt::format(R"(# {0}: stands, moves, acts, is hurt, goes down. `mobrin check {0}.yaml` reads it back.
mobrin: 1
machine: {0}
use: [{0}.clips.yaml, {0}.marks.yaml]

inputs:                                   # what the game writes
  move:   {{float: 0, min: -1, max: 1}}     # the stick, left and right
  health: {{int: 3, min: 0, max: 3}}
  act:    {{pulse: 110ms}}                  # a button; pressed this much too early still counts
  hurt:   pulse                           # something has hit it

cues:                                     # what the game hears, on the frames that {0}.marks.yaml names
  act_lands: {{kind: damage, amount: 1}}
  step:      {{kind: sound, file: step.wav}}

initial: stand
go:                                       # from anywhere, in this order
  - {{when: health <= 0, to: down}}
  - {{pulse: hurt, to: hurt}}

states:
  stand:
    clip: {1}
    go:
      - {{pulse: act, to: act}}
      - {{when: abs(move) > 0.1, to: move}}
  move:
    clip: {2}
    go:
      - {{pulse: act, to: act}}
      - {{when: abs(move) <= 0.1, to: stand}}
  act:
    clip: {3}
    traits: [busy]
    go: [{{at: end, to: stand}}]
  hurt:
    clip: {4}
    traits: [busy]
    go: [{{at: end, to: stand}}]
  down:
    clip: {5}
    sealed: true                          # nothing leads out but its own rules: the fallen do not get up
    traits: [dead]                        # neither hits nor is hit
    go: [{{at: end, to: gone}}]
  gone: {{final: true}}                     # the game is told `done`, and removes it
)",
                  p.name, clip(stand), clip(move), clip(act), clip(hurt), clip(down));
  if (p.more_clips)
    out +=
        "\naccept: [unused-clip]                     # the art has more clips than this shows; take it out when they "
        "have a place\n";
  return out;
}

// Where the clip of a role has its middle: a frame where it has frames, else a time.
std::string middle_of(const ClipInfo& clip) {
  if (clip.def.frames.empty()) return fmt::format("{}ms", clip.length.count / 2 / (kTicksPerSecond / 1000));
  return fmt::format("{}", clip.def.frames.size() / 2);
}
Ticks time_of_middle(const ClipInfo& clip) {
  if (clip.def.frames.empty()) return milliseconds(clip.length.count / 2 / (kTicksPerSecond / 1000));
  return clip.borders[clip.def.frames.size() / 2];
}

std::string marks_text(const Project& p) {
  std::string out = fmt::format(
      "# What stands on the frames of {}.clips.yaml; it stays when the art is imported again.\n"
      "# `mobrin marks` edits it, `mobrin live` lets you do it with the mouse.\nmobrin: 1\nmarks:\n",
      p.name);
  out += fmt::format("  {}: {{cues: {{{}: act_lands}}}}\n", quoted(p.shows[act]), middle_of(p.clips[act]));
  return out + fmt::format("  {}: {{cues: {{{}: step}}}}\n", quoted(p.shows[move]), middle_of(p.clips[move]));
}

// Whole tenths of a second, so that people can read it; later by half a second than `after`.
Ticks on_the_tenth(Ticks after) {
  const std::int64_t tenth = kTicksPerSecond / 10;
  return Ticks((after.count + tenth - 1) / tenth * tenth);
}
std::string tenths(Ticks at) { return fmt::format("{:.1f}s", at.to_seconds()); }

std::string tape_text(const Project& p) {
  const Ticks half = milliseconds(500), tenth = milliseconds(100);
  const Ticks moves = half, stops = moves + on_the_tenth(p.clips[move].cycle) + half, acts = stops + half;
  const Ticks lands = acts + time_of_middle(p.clips[act]), acted = on_the_tenth(acts + p.clips[act].cycle) + tenth;
  const Ticks stung = acted + half, healed = on_the_tenth(stung + p.clips[hurt].cycle) + tenth, falls = healed + half;
  const Ticks end = on_the_tenth(falls + p.clips[down].cycle) + half;
  return fmt::format(R"(# What {0} is tried with, and what must come of it: `mobrin test {0}.tape.yaml`.
mobrin: 1
tape: first_day
machine: {0}.yaml
steps:
  - {{at: 0.1s, expect: {{in: stand}}}}
  - {{at: {1}, set: {{move: 1}}}}
  - {{at: {1}, expect: {{in: move, shows: {2}}}}}
  - {{at: {3}, set: {{move: 0}}}}
  - {{at: {4}, pulse: act}}
  - {{at: {4}, expect: {{in: act, is: busy}}}}
  - {{from: {4}, to: {5}, expect: {{cues: {{act_lands: 1}}}}}}   # it lands after {6:.3f} s
  - {{at: {5}, expect: {{in: stand}}}}
  - {{at: {7}, pulse: hurt, set: {{health: 1}}}}
  - {{at: {7}, expect: {{in: hurt}}}}
  - {{at: {8}, expect: {{in: stand}}}}
  - {{at: {9}, set: {{health: 0}}}}
  - {{at: {9}, expect: {{in: down, is: dead}}}}
  - {{at: {10}, expect: {{in: gone}}}}
until: {10}
)",
                     p.name, tenths(moves), quoted(p.shows[move]), tenths(stops), tenths(acts), tenths(acted),
                     (lands - acts).to_seconds(), tenths(stung), tenths(healed), tenths(falls), tenths(end));
}

std::string program_text(const std::string& name) {
  return fmt::format(
      R"(// {0} in a game loop: what is pressed goes in, a picture and what happens on its frames come out.
#include <cstdio>

#include "{0}.hpp"  // made of {0}.yaml when this is built: a handle for each of its names

int main() {{
  const auto {0} = ::{0}::load();
  if (!{0}) return std::fprintf(stderr, "%s\n", {0}.error().text().c_str()), 1;
  mobrin::Instance it({0}->machine);

  for (int step = 0; step < 240 && !it.done(); ++step) {{
    // From your pad, and from what the game decides; here a day in the life.
    it.set({0}->inputs.move, step >= 30 && step < 90 ? 1.0f : 0.0f);
    if (step == 120) it.pulse({0}->inputs.act);
    if (step == 200) it.set({0}->inputs.health, 0);

    it.advance(mobrin::step_end(step + 1, 60) - mobrin::step_end(step, 60), [&](const mobrin::Cue& cue) {{
      std::printf("%.3f s  %s\n", cue.at.to_seconds(), cue.line().c_str());
      if (cue.cue == {0}::Cues::act_lands) {{
        // hit who stands there, with cue.number("amount"); docs/space.md finds them
      }}
    }});

    // Draw it: images()[picture.image] is a file you loaded before, cut() what to take of it and where its pivot lies.
    if (const mobrin::Picture picture = it.picture(0, /*faces_left=*/false); picture && step % 30 == 0)
      std::printf("         %-6.*s shows %s\n", static_cast<int>(it.active_path().size()), it.active_path().data(),
                  {0}->machine.images()[picture.image].c_str());
  }}
  return it.done() ? 0 : 1;
}}
)",
      name);
}

std::string cmake_text(const std::string& name) {
  return fmt::format(R"(cmake_minimum_required(VERSION 3.25)
project({0}_game LANGUAGES CXX)
find_package(mobrin REQUIRED COMPONENTS core pack)  # or add_subdirectory(mobrin)
add_executable({0}_game main.cpp)
target_compile_features({0}_game PRIVATE cxx_std_20)
target_link_libraries({0}_game PRIVATE mobrin::core)
mobrin_add_machine({0}_game {0}.yaml)                # checks the machine when the game is built
)",
                     name);
}

std::string readme_text(const std::string& name) {
  return fmt::format(R"(# {0}

- `mobrin live {0}.yaml` plays it in your browser: press, look, edit, go back.
- `mobrin check {0}.yaml` says what is wrong with it; `mobrin test .` runs its tapes.
- `art/` has its pictures. Draw over them or add others, then `mobrin import art -o {0}.clips.yaml` again.
- `{0}.clips.yaml`: how fast each clip plays. `{0}.marks.yaml`: what happens on which frame. `{0}.yaml`: when it does what.
- Build the game: `cmake -B build && cmake --build build && build/{0}_game`
)",
                     name);
}

}  // namespace

std::array<std::string, kRoles.size()> clips_for_roles(const std::vector<ClipDef>& clips) {
  std::array<std::string, kRoles.size()> shows;
  const auto is_free = [&](const std::string& name) {
    return std::find(shows.begin(), shows.end(), name) == shows.end();
  };
  for (const Role role : {stand, move, act, hurt, down})
    for (const std::string_view word : kWords[role])
      for (const ClipDef& clip : clips) {
        const std::vector<std::string> words = words_of(clip.name.text);
        if (shows[role].empty() && is_free(clip.name.text) &&
            std::find(words.begin(), words.end(), word) != words.end())
          shows[role] = clip.name.text;
      }
  return shows;
}

std::vector<std::pair<std::string, std::string>> project_files(const Project& p) {
  return {{p.name + ".yaml", machine_text(p)},    {p.name + ".marks.yaml", marks_text(p)},
          {p.name + ".tape.yaml", tape_text(p)},  {"main.cpp", program_text(p.name)},
          {"CMakeLists.txt", cmake_text(p.name)}, {"README.md", readme_text(p.name)}};
}

}  // namespace mobrin::cli
