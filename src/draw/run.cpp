// The picture of a run: lanes over time.
#include "mobrin/draw/run.hpp"

#include <algorithm>
#include <cmath>
#include <map>
#include <optional>

#include "canvas.hpp"
#include "mobrin/core/carry.hpp"
#include "mobrin/core/names.hpp"

namespace mobrin {
namespace {

using namespace draw;

constexpr int kWidth = 1280;
constexpr double kRight = 30, kTop = 78;
constexpr double kLane = 24, kGap = 10;
constexpr int kSamples = 2200;             // finer than a pixel
constexpr std::size_t kMostTold = 50'000;  // cues and states; of more nothing could be told apart

// A stretch of time in which something holds.
struct Stretch {
  Ticks begin, end;
  std::string text;
};

// What was shown in a region, from one change to the next.
struct ShownStretch {
  Ticks begin, end;
  std::uint16_t clip = kNoIndex;
  std::int32_t frame = -1;
};

struct Pressed {
  Ticks at, life;
  std::optional<Ticks> taken{};  // when
};

// All that is drawn, gathered in one run.
class History {
 public:
  History(const Machine& machine, const Tape& tape, Ticks from, Ticks until)
      : machine_(machine), from_(from), until_(until) {
    Instance instance(machine);
    states.resize(instance.region_count());
    shown.resize(instance.region_count());
    std::size_t next = 0;
    for (int i = 0; i <= kSamples && !too_much; ++i) {
      const Ticks length = until - from;
      const Ticks at(from.count + length.count / kSamples * i + length.count % kSamples * i / kSamples);
      for (; next < tape.steps.size() && tape.steps[next].at <= at;) {
        const Ticks here = tape.steps[next].at;
        cover(instance, here);
        for (bool written = false; next < tape.steps.size() && tape.steps[next].at == here; ++next, written = true) {
          if (takes_turn(tape.steps[next], written)) cover(instance, here);
          write_step(instance, tape.steps[next]);
          note_writing(instance, tape.steps[next]);
        }
        cover(instance, here);
        note_shown(instance);
      }
      cover(instance, at);
      note_shown(instance);
    }
  }

  std::map<std::uint16_t, std::vector<Stretch>> values;  // of inputs that were written
  std::map<std::uint16_t, std::vector<Pressed>> pulses;
  std::map<std::string, std::vector<Stretch>> variables;
  std::vector<Stretch> looks;
  std::vector<std::vector<Stretch>> states;  // by region
  std::vector<std::vector<ShownStretch>> shown;
  std::vector<Cue> told;  // cues, faults, done
  bool too_much = false;  // to be drawn: nothing more was gathered

 private:
  void cover(Instance& instance, Ticks to) {
    instance.advance(
        to - instance.now(), [&](const Cue& cue) { note(instance, cue); }, kAllRecords);
  }

  void note(const Instance& instance, const Cue& cue) {
    const bool before = cue.at < from_;
    if (!before && (too_much || (too_much = ++noted_ > kMostTold))) return;
    if (before && cue.what != Told::enter && cue.what != Told::leave) return;
    if (cue.what == Told::cue || cue.what == Told::fault || cue.what == Told::done) told.push_back(cue);
    if (cue.what != Told::enter && cue.what != Told::leave) return;
    const std::uint16_t pulse =
        cue.transition == kNoTransition ? kNoIndex : machine_.transitions()[cue.transition].pulse;
    if (pulse != kNoIndex)
      for (Pressed& pressed : pulses[pulse])
        if (!pressed.taken && pressed.at <= cue.at && cue.at <= pressed.at + pressed.life) pressed.taken = cue.at;
    note_states(instance, cue.at, cue.what == Told::enter ? cue.state : kNoIndex);
  }

  // `entered`: one that is entered now.
  void note_states(const Instance& instance, Ticks at, std::uint16_t entered) {
    for (std::uint16_t r = 0; r < instance.region_count(); ++r) {
      const std::uint16_t leaf = instance.active(r);
      std::string path = leaf == kNoIndex || machine_.states()[leaf].has_children ? "" : machine_.states()[leaf].path;
      const std::string& region = machine_.regions()[r].path;
      if (!region.empty() && path.starts_with(region + "/")) path.erase(0, region.size() + 1);
      if (at < from_ && !states[r].empty()) states[r].erase(states[r].begin(), states[r].end() - 1);
      begin(states[r], at, std::move(path), leaf != kNoIndex && leaf == entered);
    }
  }

  void note_writing(const Instance& instance, const TapeStep& step) {
    const auto index_of = [&](const std::string& name) {
      for (std::uint16_t i = 0; i < machine_.inputs().size(); ++i)
        if (machine_.inputs()[i].name.text == name) return i;
      return kNoIndex;
    };
    if (step.place) note_states(instance, step.at, kNoIndex);
    for (const auto& [name, value] : step.set) {
      const std::uint16_t input = index_of(name.text);
      if (input == kNoIndex) continue;
      if (values[input].empty() && step.at.count > 0)
        begin(values[input], {}, value_text(Instance(machine_).input_value(input)));
      begin(values[input], step.at, value_text(instance.input_value(input)));
    }
    for (const Text& name : step.pulses) {
      const std::uint16_t input = index_of(name.text);
      if (input == kNoIndex) continue;
      const auto* kind = std::get_if<PulseInput>(&machine_.inputs()[input].kind);
      pulses[input].push_back({step.at, kind != nullptr ? kind->buffer : Ticks{}});
    }
  }

  void note_shown(const Instance& instance) {
    if (!machine_.looks().empty()) {
      const std::uint16_t look = instance.look();
      begin(looks, instance.now(), look == kNoIndex ? "" : machine_.looks()[look].name.text);
    }
    for (const SavedInstance::Named& each : save(instance).variables) {
      const std::string name = each.state.empty() ? each.name : each.name + " (" + each.state + ")";
      begin(variables[name], instance.now(), value_text(each.value));
    }
    note_clips(instance);
  }

  void note_clips(const Instance& instance) {
    for (std::uint16_t r = 0; r < instance.region_count(); ++r) {
      const Shown now = instance.shown(r);
      auto& list = shown[r];
      if (!list.empty() && list.back().clip == now.clip && list.back().frame == now.frame) {
        list.back().end = instance.now();
        continue;
      }
      if (!list.empty()) list.back().end = instance.now();
      list.push_back({instance.now(), instance.now(), now.clip, now.frame});
    }
  }

  // Ends what held and begins what holds from now on; what is over at once leaves no trace.
  // `anew`: also where it is the same once more.
  void begin(std::vector<Stretch>& list, Ticks at, std::string text, bool anew = false) const {
    if (!list.empty() && list.back().text == text && !anew) return;
    if (!list.empty()) list.back().end = at;
    if (!list.empty() && list.back().begin == at) list.pop_back();
    list.push_back({at, until_, std::move(text)});
  }

  const Machine& machine_;
  Ticks from_, until_;
  std::size_t noted_ = 0;
};

class RunPicture {
 public:
  RunPicture(const Machine& machine, const Tape& tape, Ticks from, Ticks until, bool dark)
      : dark_(dark), machine_(machine), tape_(tape), from_(from), until_(until), history_(machine, tape, from, until) {}

  Outcome write(const std::string& path) {
    if (history_.too_much)
      return Error{"more than " + std::to_string(kMostTold) + " cues and states: too much for one picture", "",
                   "Draw less of the run: `--from 1s --to 3s`."};
    // Once to measure the height and how wide the names are, once to draw.
    Canvas measure(0, 0);
    canvas_ = &measure;
    const double height = draw();
    Canvas canvas(kWidth, static_cast<int>(std::ceil(height)), dark_);
    canvas_ = &canvas;
    grid(height);
    draw();
    return canvas.write(path);
  }

 private:
  [[nodiscard]] double x_of(Ticks at) const {
    const double part = static_cast<double>((at - from_).count) / static_cast<double>((until_ - from_).count);
    return names_.width + std::clamp(part, 0.0, 1.0) * (kWidth - names_.width - kRight);
  }

  void grid(double height) {
    for (const auto& [at, text] : time_marks(from_, until_)) {
      const double x = x_of(at);
      canvas_->line(x, kTop - 8, x, height - 12, kLine);
      canvas_->text(x - canvas_->text_width(text, {kSmall}) / 2, kTop - 26, text, {kSmall, false, kFaint});
    }
  }

  double draw() {
    y_ = kTop;
    canvas_->text(20, 18, machine_.name(), {kTitle, true});
    std::string with = tape_.steps.empty()
                           ? "nothing pressed"
                           : std::to_string(tape_.steps.size()) + (tape_.steps.size() == 1 ? " step" : " steps");
    if (!tape_.name.empty()) with = "tape " + tape_.name + ", " + with;
    canvas_->text(28 + canvas_->text_width(machine_.name(), {kTitle, true}), 24, with, {kNormal, false, kFaint});
    for (std::uint16_t i = 0; i < machine_.inputs().size(); ++i) {
      const std::string& name = machine_.inputs()[i].name.text;
      if (const auto found = history_.values.find(i); found != history_.values.end()) value_lane(name, found->second);
      if (const auto found = history_.pulses.find(i); found != history_.pulses.end()) pulse_lane(name, found->second);
    }
    for (const auto& [name, stretches] : history_.variables) value_lane(name, stretches);
    const bool looks =
        std::any_of(history_.looks.begin(), history_.looks.end(), [](const Stretch& s) { return !s.text.empty(); });
    if (looks) value_lane("look", history_.looks);
    y_ += kGap;
    for (std::size_t r = 0; r < history_.states.size(); ++r) {
      if (history_.states[r].empty()) continue;
      const std::string& region = machine_.regions()[r].path;
      state_lane(region.empty() ? "state" : region, history_.states[r]);
      const bool art = std::any_of(history_.shown[r].begin(), history_.shown[r].end(),
                                   [](const ShownStretch& s) { return s.clip != kNoIndex; });
      if (art) clip_lanes(history_.shown[r]);
      y_ += kGap;
    }
    cue_lanes();
    legend();
    return y_ + 30;
  }

  void label(const std::string& text, Color color = kInk) {
    names_.hold(*canvas_, text);  // all are when it is drawn
    names_.draw(*canvas_, text, y_ + 2, {kNormal, false, color});
  }
  // `text` within [from, to], if it fits.
  void fitted(double from, double to, const std::string& text, const TextStyle& style) {
    if (text.empty() || canvas_->text_width(text, style) > to - from - 6) return;
    canvas_->text(from + 4, y_ + 3, text, style);
  }

  void value_lane(const std::string& name, const std::vector<Stretch>& stretches) {
    label(name);
    for (const Stretch& each : stretches) {
      const double from = x_of(each.begin), to = x_of(each.end);
      const bool off = each.text.empty() || each.text == "false" || each.text == "0";
      canvas_->fill({from, y_, to - from, kLane - 6}, off ? kCellLight : kValuePale);
      canvas_->line(from, y_, from, y_ + kLane - 6, kValue, 1.5);
      fitted(from, to, each.text, {kSmall, false, kValue});
    }
    y_ += kLane;
  }

  // A filled head where the pulse was taken, a hollow one where nothing took it; behind it, its life as far as it went.
  void pulse_lane(const std::string& name, const std::vector<Pressed>& presses) {
    label(name);
    const double middle = y_ + (kLane - 6) / 2;
    for (std::size_t i = 0; i < presses.size(); ++i) {
      const Pressed& each = presses[i];
      if (each.at < from_ || each.at > until_) continue;
      const double x = x_of(each.at), end = x_of(each.taken ? *each.taken : each.at + each.life);
      canvas_->line(x, middle, end, middle, kValue, 2);
      if (each.taken) canvas_->line(end, middle - 5, end, middle + 5, kValue, 2);
      canvas_->fill({x - 4, middle - 6, 8, 12}, each.taken ? kValue : kPaper);
      canvas_->frame({x - 4, middle - 6, 8, 12}, kValue, 1.5);
      const double room = i + 1 < presses.size() ? x_of(presses[i + 1].at) - 8 : kWidth - 4;
      const double left = std::max(x + 8, end + 4);
      if (!each.taken && left + canvas_->text_width("not taken", {kSmall}) < room)
        canvas_->text(left, y_ + 1, "not taken", {kSmall, false, kFaint});
    }
    y_ += kLane;
  }

  // What is there, and what it stands for.
  void legend() {
    double x = names_.width;
    const double y = y_ + 8;
    const auto words = [&](const char* text, Color color) {
      x += canvas_->text(x, y, text, {kSmall, false, color}) + 24;
    };
    const auto any_cue = [&](auto is) { return std::any_of(history_.told.begin(), history_.told.end(), is); };
    if (!history_.pulses.empty()) {
      canvas_->fill({x, y + 2, 8, 12}, kValue);
      x += 14;
      words("a press; its line ends where it was taken", kValue);
      canvas_->frame({x, y + 2, 8, 12}, kValue, 1.5);
      x += 14;
      words("one that nothing took", kValue);
    }
    if (any_cue([](const Cue& cue) { return cue.what == Told::cue && cue.edge == Edge::none; })) {
      canvas_->flag(x, y + 14, 13, kCue);
      x += 12;
      words("a cue", kCue);
    }
    if (any_cue([](const Cue& cue) { return cue.edge != Edge::none; })) {
      canvas_->fill({x, y + 5, 18, 6}, kSpan);
      x += 24;
      words("a span", kSpan);
    }
    if (any_cue([](const Cue& cue) { return cue.what == Told::fault; })) {
      canvas_->flag(x, y + 14, 13, kWrong);
      x += 12;
      words("a runaway", kWrong);
    }
    y_ += 8;
  }

  void state_lane(const std::string& name, const std::vector<Stretch>& stretches) {
    label(name);
    for (const Stretch& each : stretches) {
      if (each.text.empty()) continue;
      const double from = x_of(each.begin), to = x_of(each.end);
      canvas_->fill({from, y_, to - from, kLane - 2}, kStatePale);
      canvas_->line(from, y_, from, y_ + kLane - 2, kState, 2);
      const std::size_t slash = each.text.rfind('/');
      const std::string own = slash == std::string::npos ? each.text : each.text.substr(slash + 1);
      const bool whole = canvas_->text_width(each.text, {kSmall, true}) <= to - from - 6;
      fitted(from, to, whole ? each.text : own, {kSmall, true, kState});
    }
    y_ += kLane;
  }

  // The clip's name above, its frames below.
  void clip_lanes(const std::vector<ShownStretch>& stretches) {
    label("clip", kFaint);
    for (std::size_t i = 0; i < stretches.size();) {
      std::size_t end = i + 1;
      while (end < stretches.size() && stretches[end].clip == stretches[i].clip) ++end;
      if (stretches[i].clip != kNoIndex)
        fitted(x_of(stretches[i].begin), x_of(stretches[end - 1].end),
               machine_.clips()[stretches[i].clip].def.name.text, {kSmall, false, kFaint});
      i = end;
    }
    y_ += kLane - 6;
    for (std::size_t i = 0; i < stretches.size(); ++i) {
      const ShownStretch& each = stretches[i];
      if (each.clip == kNoIndex) continue;
      const double from = x_of(each.begin), to = x_of(each.end);
      canvas_->fill({from, y_, std::max(0.5, to - from), kLane - 8}, each.frame % 2 == 0 ? kCellLight : kCellDark);
      const bool fresh = i == 0 || stretches[i - 1].clip != each.clip;
      if (fresh) canvas_->line(from, y_, from, y_ + kLane - 8, kFaint, 1);
      const std::string number = each.frame < 0 ? "" : std::to_string(each.frame);
      if (canvas_->text_width(number, {kSmall}) <= to - from - 2)
        canvas_->text((from + to - canvas_->text_width(number, {kSmall})) / 2, y_ + 1, number, {kSmall, false, kFaint});
    }
    y_ += kLane - 4;
  }

  // A lane a cue: flags where it is told, a bar while a span lasts. Faults and the end have lanes of their own.
  void cue_lanes() {
    for (std::size_t c = 0; c < machine_.cues().size(); ++c) {
      std::optional<Ticks> since;
      bool any = false;
      for (const Cue& cue : history_.told) {
        if (cue.what != Told::cue || cue.cue != c) continue;
        if (!any) {
          const CueDef& def = machine_.cues()[c];
          const bool special = def.kind == "impulse" || def.kind == "spawn";
          label(def.name.text + (special ? " (" + def.kind + ")" : ""), cue.edge == Edge::none ? kCue : kSpan);
        }
        any = true;
        const double x = x_of(cue.at);
        if (cue.edge == Edge::none && cue.at >= from_) canvas_->flag(x, y_ + kLane - 6, kLane - 8, kCue);
        if (cue.edge == Edge::begin) since = cue.at;
        if (cue.edge == Edge::end && since) bar(*since, cue.at);
        if (cue.edge == Edge::end) since.reset();
      }
      if (since) bar(*since, until_);
      if (any) y_ += kLane;
    }
    for (const Told what : {Told::fault, Told::done}) {
      bool any = false;
      for (const Cue& cue : history_.told) {
        if (cue.what != what) continue;
        if (!any) label(what == Told::fault ? "runaway" : "done", what == Told::fault ? kWrong : kInk);
        any = true;
        canvas_->flag(x_of(cue.at), y_ + kLane - 6, kLane - 8, what == Told::fault ? kWrong : kInk);
      }
      if (any) y_ += kLane;
    }
  }
  void bar(Ticks from, Ticks to) {
    canvas_->fill({x_of(from), y_ + 6, std::max(1.0, x_of(to) - x_of(from)), 6}, kSpan);
  }

  bool dark_;
  const Machine& machine_;
  const Tape& tape_;
  Ticks from_, until_;
  History history_;
  Canvas* canvas_ = nullptr;
  double y_ = 0;
  NameColumn names_;
};

}  // namespace

Outcome draw_run(const Machine& machine, const Tape& tape, Ticks until, const std::string& path, bool dark,
                 Ticks from) {
  return RunPicture(machine, tape, from, until, dark).write(path);
}

}  // namespace mobrin
