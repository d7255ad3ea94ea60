// Random machines that count what comes round, go back to what was before, and are over in time: by variables, memories
// and speeds of one sign.
#pragma once

#include "random_machine.hpp"

namespace mobrin::test {

class CountingMachine {
 public:
  explicit CountingMachine(RandomMachine& random) : random_(random) {}

  // The inputs of RandomMachine, a variable `c` from 0 to 3 or 4, and `d` that is counted up and set back.
  MachineDef make() {
    MachineBuilder builder("counting");
    builder.input("v", FloatInput{1, -4, 4, 0}).input("n", IntInput{0, -3, 3}).input("b", BoolInput{});
    builder.input("h", ChoiceInput{{"x", "y", "z"}, {}}).pulse("p", milliseconds(100)).pulse("q");
    for (int i = 0; i < 4; ++i) builder.cue("cue" + std::to_string(i), "kind", {{"amount", std::int64_t{i}}});
    for (int i = 0; i < 2; ++i) {
      builder.clip("turn" + std::to_string(i), 1 + random_.pick(3), {10, 1}, PlayMode::loop());
      builder.clip("once" + std::to_string(i), 2 + random_.pick(3), {10, 1}, PlayMode::once());
    }
    builder.mark("turn0", 0, "cue0").mark("once0", 1, "cue1");
    MachineDef& def = builder.definition();
    most_ = 3 + random_.pick(2);
    def.root.vars.push_back({Text("c"), std::int32_t{0}});
    def.root.vars.push_back({Text("d"), std::int32_t{0}});
    if (random_.pick(3) == 0) {
      for (int r = 0; r < 2; ++r) {
        RegionDef& region = def.root.regions.emplace_back();
        region.name = "r" + std::to_string(r);
        region.states = states(r == 0 ? 3 : 2);
        region.initial = region.states[0].name;
      }
    } else {
      def.root.states = states(3 + random_.pick(2));
      def.root.initial = def.root.states[0].name;
    }
    return def;
  }

 private:
  [[nodiscard]] std::string some(const std::vector<StateDef>& states) {
    return states[static_cast<std::size_t>(random_.pick(static_cast<int>(states.size())))].name.text;
  }
  [[nodiscard]] std::string up() const { return "c = min(c + 1, " + std::to_string(most_) + ")"; }
  [[nodiscard]] std::string compared() {
    const char* const signs[] = {" >= ", " == ", " < ", " == "};
    const bool of_d = random_.pick(3) == 0;
    const std::string sign = signs[random_.pick(4)];
    return (of_d ? "d" : "c") + sign + std::to_string(random_.pick(of_d ? 4 : most_ + 1));
  }

  std::vector<StateDef> states(int count) {
    std::vector<StateDef> out(static_cast<std::size_t>(count));
    for (StateDef& each : out) each.name = "s" + std::to_string(made_++);
    for (StateDef& each : out) {
      if (random_.pick(5) == 0) {
        each.states.resize(2);
        for (StateDef& inner : each.states) inner.name = "s" + std::to_string(made_++);
        each.initial = each.states[0].name;
        for (StateDef& inner : each.states) fill(inner, each.states);
        if (random_.pick(2) == 0) leave(each, out);
      } else {
        fill(each, out);
      }
    }
    return out;
  }

  void fill(StateDef& state, const std::vector<StateDef>& siblings) {
    const char* const speeds[] = {"", "", "2", "0.5", "select(b, 1, 1.5)", "-1", "1 + c"};
    state.speed = speeds[random_.pick(7)];
    const bool loops = random_.pick(2) == 0;
    state.clip = std::string(loops ? "turn" : "once") + std::to_string(random_.pick(2));
    if (loops && random_.pick(3) != 0) state.each_loop.emplace_back(random_.pick(2) == 0 ? up() : "c = max(c - 1, 0)");
    if (random_.pick(4) == 0) state.enter.emplace_back(random_.pick(2) == 0 ? up() : "c = 0");
    if (random_.pick(3) == 0) state.exit.emplace_back(random_.pick(3) == 0 ? "d = 0" : "d = d + 1");
    for (int i = 1 + random_.pick(3); i > 0; --i) leave(state, siblings);
  }

  void leave(StateDef& state, const std::vector<StateDef>& siblings) {
    GoDef& go = state.go.emplace_back();
    go.to = some(siblings);
    for (const StateDef& each : siblings)
      if (!each.states.empty() && random_.pick(2) == 0) go.to = each.name.text + "/last";
    if (random_.pick(4) == 0) go.to = "back";
    switch (random_.pick(7)) {
      case 0:
      case 1:
        if (!state.clip.empty()) go.at = state.clip.text.starts_with("once") ? GoAt::end : GoAt::loop;
        if (random_.pick(3) == 0) go.when = compared();
        break;
      case 2:
        go.after = milliseconds(100 * (1 + random_.pick(4)));
        break;
      case 3:
        go.pulse = random_.pick(2) == 0 ? "p" : "q";
        go.when = "c > 0";
        go.restart = random_.pick(2) == 0;
        go.actions.emplace_back("c = c - 1");
        break;
      case 4:
        go.when = random_.pick(2) == 0 ? "b" : "n > 0";
        break;
      default:
        go.when = compared();
        break;
    }
    if (random_.pick(5) == 0) go.actions.emplace_back().tell = "cue" + std::to_string(2 + random_.pick(2));
  }

  RandomMachine& random_;
  int made_ = 0, most_ = 3;
};

}  // namespace mobrin::test
