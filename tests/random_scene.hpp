// Scenes of chance: the apiary's machines with tapes, moves and hits as they fall.
#pragma once

#include <algorithm>
#include <cmath>
#include <map>
#include <random>
#include <string>
#include <vector>

#include "mobrin/io/scene.hpp"
#include "support.hpp"

namespace mobrin::test {

// As in a mirror.
inline Scene mirrored(Scene scene) {
  for (SceneActor& actor : scene.actors) {
    actor.start.at.x = -actor.start.at.x;
    actor.start.faces_left = !actor.start.faces_left;
    for (SceneMove& move : actor.moves) {
      move.by.x = -move.by.x;
      if (move.faces_left) move.faces_left = !*move.faces_left;
    }
  }
  return scene;
}

// On a grid, places, ways and instants are round numbers, so that much falls on borders and on one tick.
enum class Numbers { any, round };

// A scene of the apiary's machines with tapes, moves and hits of chance.
class RandomScene {
 public:
  RandomScene(std::uint32_t seed, Numbers numbers) : random_(seed), numbers_(numbers) {}

  Scene scene() {
    Scene out;
    out.until = seconds(4);
    if (pick(2) == 0) out.gravity = number(2, 30);
    if (pick(3) == 0) out.ground = number(-1, 1);
    const int count = 2 + pick(5);
    for (int i = 0; i < count; ++i) out.actors.push_back(actor(static_cast<char>('a' + i), count));
    SceneSpawn puff;
    puff.what = "puff";
    puff.machine = machine("puff");
    puff.velocity = {number(-1, 1), number(-0.5, 2)};
    puff.falls = pick(2) == 0;
    if (pick(2) == 0) puff.lasts = time(1500);
    out.spawns.push_back(puff);
    return out;
  }
  Ticks time(int most_milliseconds) {
    if (numbers_ == Numbers::any) return Ticks(static_cast<std::int64_t>(number(0, most_milliseconds) * 705'600));
    return pick(4) > 0 ? milliseconds(50 * pick(std::max(1, most_milliseconds / 50)))
                       : Ticks(kTicksPerSecond / 60 * pick(std::max(1, most_milliseconds * 60 / 1000)));
  }
  std::vector<Ticks> cuts(int count) {
    std::vector<Ticks> out;
    for (int i = 0; i < count; ++i) out.push_back(time(4000));
    std::sort(out.begin(), out.end());
    return out;
  }

  int pick(int count) { return static_cast<int>(random_() % static_cast<unsigned>(count)); }
  // A pulse or a value for one of its inputs.
  void add_write(TapeStep& step, const Machine& machine) {
    const InputDef& input = machine.inputs()[static_cast<std::size_t>(pick(static_cast<int>(machine.inputs().size())))];
    if (std::holds_alternative<PulseInput>(input.kind))
      step.pulses.push_back(input.name);
    else
      step.set.emplace_back(input.name, value_of(input));
  }

 private:
  static Machine machine(const std::string& name) {
    static std::map<std::string, Machine> all;
    auto known = all.find(name);
    if (known == all.end()) known = all.emplace(name, *load_character(MOBRIN_DEMO "/" + name + ".yaml").machine).first;
    return known->second;
  }
  double number(double low, double high) {
    if (numbers_ == Numbers::round) return std::round((low + (high - low) * pick(9) / 8) * 8) / 8;
    return std::uniform_real_distribution<double>(low, high)(random_);
  }
  std::string state_of(const Machine& machine) {
    return machine.states()[static_cast<std::size_t>(1 + pick(static_cast<int>(machine.states().size()) - 1))].path;
  }

  SceneActor actor(char name, int count) {
    const char* const files[] = {"keeper", "hornet", "marsh_hornet", "hive", "smoker"};
    SceneActor out;
    out.name = std::string(1, name);
    const std::string file = files[pick(5)];
    out.machine = machine(file);
    out.start = {{number(-3, 3), pick(2) == 0 ? 0 : number(-1, 1.5)}, pick(2) == 0, pick(4) == 0 ? number(0.5, 2) : 1};
    out.tags = {file == "marsh_hornet" ? "hornet" : file};
    for (const Ticks at : cuts(pick(14))) out.tape.steps.push_back(step(at, *out.machine));
    Ticks free{};
    for (int i = pick(6); i > 0; --i) {
      out.moves.push_back(move(free + time(500), name, count));
      free = out.moves.back().at + out.moves.back().lasts;
    }
    for (const InputDef& input : out.machine->inputs()) {
      if (pick(3) == 0 && out.rules.size() < 3) out.rules.push_back(rule(input));
      if (input.name.text == "grounded" && pick(2) == 0) out.grounded = input.name;
    }
    return out;
  }
  TapeStep step(Ticks at, const Machine& machine) {
    TapeStep out;
    out.at = at;
    switch (pick(14)) {
      case 0:
        out.rate = pick(4) * 0.5;
        break;
      case 1:
        out.freeze = time(300);
        break;
      case 2:
        out.place = Text(state_of(machine));
        out.played = time(500);
        break;
      case 3:
        out.force = Text(state_of(machine));
        break;
      case 4:
        out.reset = true;
        break;
      default:
        break;
    }
    for (int i = 0; i < 2; ++i) add_write(out, machine);
    return out;
  }
  FieldValue value_of(const InputDef& input) {
    if (std::holds_alternative<BoolInput>(input.kind)) return pick(2) == 0;
    if (const auto* choice = std::get_if<ChoiceInput>(&input.kind))
      return choice->choices[static_cast<std::size_t>(pick(static_cast<int>(choice->choices.size())))].text;
    if (const auto* whole = std::get_if<IntInput>(&input.kind)) {
      const int low = std::max(whole->min, -5);
      return static_cast<std::int64_t>(low + pick(std::min(12, whole->max - low + 1)));
    }
    const auto& real = std::get<FloatInput>(input.kind);
    return number(std::max(real.min, -200.0), std::min(real.max, 200.0));
  }
  SceneMove move(Ticks at, char mover, int count) {
    SceneMove out;
    out.at = at;
    if (pick(6) > 0) out.lasts = time(900);
    out.by = {number(-2, 2), number(-0.75, 0.75)};
    if (pick(3) == 0) out.faces_left = pick(2) == 0;
    const char whom = static_cast<char>('a' + pick(count));
    if (pick(4) > 0 || whom == mover || out.lasts.count == 0) return out;
    out.follows = std::string(1, whom);
    out.by = {};
    out.keeps = number(0, 1);
    out.speed = number(0.5, 3);
    out.faces_it = pick(2) == 0;
    return out;
  }
  HitRule rule(const InputDef& input) {
    const char* const boxes[] = {"", "sting", "net", "smoke"};
    HitRule out;
    out.box = boxes[pick(4)];
    if (std::holds_alternative<PulseInput>(input.kind)) out.pulses.push_back(input.name);
    if (std::holds_alternative<IntInput>(input.kind)) out.add.emplace_back(input.name, -pick(4));
    return out;
  }

  std::mt19937 random_;
  Numbers numbers_;
};

}  // namespace mobrin::test
