// The host: the clock and commands.
#include "host.hpp"

#include <algorithm>
#include <cmath>

#include "mobrin/core/names.hpp"
#include "mobrin/io/record.hpp"
#include "mobrin/prove/prove.hpp"
#include "server.hpp"

namespace mobrin::live {
namespace {

constexpr std::chrono::microseconds kFrame{16'667};
constexpr std::chrono::milliseconds kWhy{100}, kHeartbeat{1000};
constexpr double kMostAtOnce = 0.1;  // seconds of the clock: who was asleep does not catch up
constexpr std::size_t kMostText = 100'000;
constexpr Ticks kMostPlotted = seconds(60);

template <class T>
std::optional<T> get(const Json& from, const char* key) {
  const auto found = from.find(key);
  if (found == from.end()) return std::nullopt;
  if constexpr (std::is_same_v<T, std::string>) {
    if (!found->is_string()) return std::nullopt;
  } else if constexpr (std::is_same_v<T, bool>) {
    if (!found->is_boolean()) return std::nullopt;
  } else if constexpr (std::is_floating_point_v<T>) {
    if (!found->is_number()) return std::nullopt;
  } else {
    if (!found->is_number_integer()) {
      // The page has one kind of number.
      if (!found->is_number() || std::abs(found->get<double>()) > 9e15) return std::nullopt;
      return static_cast<T>(found->get<double>());
    }
  }
  return found->get<T>();
}

std::optional<FieldValue> value_of(const Json& json) {
  if (json.is_boolean()) return FieldValue(json.get<bool>());
  if (json.is_string()) return FieldValue(json.get<std::string>());
  if (json.is_number_integer()) return FieldValue(json.get<std::int64_t>());
  if (json.is_number()) return FieldValue(json.get<double>());
  return std::nullopt;
}

}  // namespace

Json Refusal::json() const {
  Json out = {{"code", code}, {"text", text}};
  if (!nearest.empty()) out["nearest"] = nearest;
  if (!file.empty()) out["file"] = file;
  if (line > 0) out["line"] = line;
  if (column > 0) out["column"] = column;
  return out;
}

Refusal refusal_of(const Finding& finding) {
  return {
      400,           std::string(text_of(finding.code)), finding.message, finding.remedy, finding.file, finding.line,
      finding.column};
}

Host::Host(std::shared_ptr<const Cast> cast, const Tape* tape, bool still, Publish publish)
    : session_(std::move(cast), tape), still_(still), publish_(std::move(publish)), playing_(!still) {}

// --- the clock ------------------------------------------------------------------------------------------------------

Host::Clock::time_point Host::frame() {
  const Clock::time_point now = Clock::now();
  const double passed = std::min(kMostAtOnce, std::chrono::duration<double>(now - last_).count());
  const bool was_there = last_.time_since_epoch().count() != 0;
  last_ = now;
  const bool runs = playing_ && !still_ && !attached_ && viewers_ > 0 && was_there;
  if (runs) {
    const double ticks = passed * speed_ * static_cast<double>(kTicksPerSecond) + rest_;
    const auto whole = static_cast<std::int64_t>(ticks);
    rest_ = ticks - static_cast<double>(whole);
    session_.advance(Ticks(whole));
    if (session_.halted()) playing_ = false;
    changed_ = true;
  }
  if (viewers_ > 0 && (changed_ || now - told_at_ >= kHeartbeat)) tell();
  if (viewers_ > 0 && now - why_at_ >= kWhy) tell_why();
  return now + (viewers_ == 0 ? std::chrono::microseconds(1'000'000) : kFrame);
}

void Host::set_viewers(std::size_t count) {
  if (viewers_ == 0) last_ = Clock::now();
  viewers_ = count;
  changed_ = true;
}

void Host::reload(std::shared_ptr<const Cast> cast) {
  session_.reload(std::move(cast));
  changed_ = true;
}

void Host::attach(Game game) {
  game_ = std::move(game);
  watches_ = attached_ = true;
  playing_ = false;
}

void Host::expect(std::uint32_t group) {
  group_ = group;
  notes_.clear();
  elsewhere_.clear();
  session_.forget_followed();
}

void Host::follow(WatchedFrame frame) {
  if (!attached_ || frame.group != group_) return;  // taken out: this time is our own
  if (frame.gap) ++gaps_;
  if (!session_.follow(std::move(frame.writes), frame.blocks)) return;
  notes_ = std::move(frame.notes);
  elsewhere_ = std::move(frame.elsewhere);
  changed_ = true;
}

void Host::game_ended() {
  ended_ = true;
  changed_ = true;
}

void Host::tell() {
  told_at_ = Clock::now();
  changed_ = false;
  Json out = {{"n", ++frames_}};
  out.update(now());
  publish_("now", text_of(out));
}

void Host::tell_why() {
  why_at_ = Clock::now();
  Json of = Json::array();
  for (const std::uint32_t actor : chosen_)
    if (actor < session_.run().actors() && !session_.run().gone(actor))
      of.push_back({{"a", actor}, {"rules", looked(session_.would_consider(actor))}});
  const Json out = {
      {"t", session_.now().count}, {"v", session_.stretch()}, {"waits", session_.waits()}, {"of", std::move(of)}};
  std::string text = text_of(out);
  if (text == why_) return;
  why_ = text;
  publish_("why", std::move(text));
}

// --- commands -------------------------------------------------------------------------------------------------------

Json Host::commands(const Json& list, Refusal& refusal) {
  Json answer = Json::object();
  if (!list.is_array() || list.size() > 100) {
    refusal = {400, "commands", "a list of at most 100 commands"};
    return answer;
  }
  for (const Json& one : list) {
    bool done = false;
    if (one.is_object())
      done = command(one, answer, refusal);
    else
      refusal = {400, "command", "a command is a map with `do`"};
    if (!done) break;
  }
  changed_ = true;
  tell();
  if (still_ || !playing_) tell_why();
  answer["n"] = frames_;
  return answer;
}

namespace {

std::optional<Ticks> ticks_of(const Json& one, const char* key) {
  const auto count = get<std::int64_t>(one, key);
  if (!count || *count < -kMaxDurationTicks || *count > std::int64_t{1} << 52) return std::nullopt;
  return Ticks(*count);
}

bool wrong(Refusal& refusal, std::string text) {
  refusal = {400, "command", std::move(text)};
  return false;
}

}  // namespace

// Every command, once: its name, what it does, and whether it moves time, which is the game's where one is watched.
struct Host::Command {
  std::string_view name;
  bool (Host::*does)(const Json& one, Json& answer, Refusal& refusal);
  bool moves_time = false;
};

bool Host::command(const Json& one, Json& answer, Refusal& refusal) {
  static constexpr Command kCommands[] = {{"write", &Host::write},
                                          {"play", &Host::play, true},
                                          {"speed", &Host::set_speed},
                                          {"jump", &Host::jump},
                                          {"advance", &Host::advance, true},
                                          {"step", &Host::step},
                                          {"choose", &Host::choose},
                                          {"give_back", &Host::give_back, true},
                                          {"take_up", &Host::take_up, true},
                                          {"again", &Host::again, true},
                                          {"halts", &Host::set_halts},
                                          {"considered", &Host::considered},
                                          {"tape", &Host::tape},
                                          {"load", &Host::load, true},
                                          {"take_out", &Host::take_out},
                                          {"member", &Host::member},
                                          {"clock", &Host::clock},
                                          {"plot", &Host::plot}};
  const std::string what = get<std::string>(one, "do").value_or("");
  std::vector<std::string> known;
  for (const Command& each : kCommands) {
    known.emplace_back(each.name);
    if (each.name != what) continue;
    if (attached_ && each.moves_time) return wrong(refusal, "time is the game's; take this instant out first");
    return (this->*each.does)(one, answer, refusal);
  }
  refusal = {400, "command", "there is no command \"" + what + "\"", nearest_name(what, known)};
  return false;
}

// The actor that a command names.
std::optional<std::uint32_t> Host::actor_of(const Json& one) const {
  const auto actor = get<std::int64_t>(one, "actor");
  if (!actor || *actor < 0 || static_cast<std::size_t>(*actor) >= session_.run().actors()) return std::nullopt;
  return static_cast<std::uint32_t>(*actor);
}

bool Host::take_out(const Json&, Json&, Refusal& refusal) {
  // That instant as a session of our own; the game goes on without being watched.
  if (!attached_) return wrong(refusal, "no game is watched");
  attached_ = false;
  return true;
}

bool Host::member(const Json& one, Json&, Refusal& refusal) {
  const auto actor = actor_of(one);
  const auto place = get<std::int64_t>(one, "place");
  if (!attached_ || !actor || !place || *place < 0 || *place >= probe::kNobody ||
      !game_.choose(*actor, static_cast<std::uint32_t>(*place)))
    return wrong(refusal, "`member` takes a crowd that is watched and a place");
  return true;
}

bool Host::clock(const Json& one, Json&, Refusal& refusal) {
  const auto name = get<std::string>(one, "name");
  if (!attached_ || !name) return wrong(refusal, "`clock` takes the name of one that a game shows");
  game_.look_at(*name);
  return true;
}

bool Host::plot(const Json& one, Json& answer, Refusal& refusal) {
  const auto from = ticks_of(one, "from"), to = ticks_of(one, "to");
  const auto actor = actor_of(one);
  const auto expression = get<std::string>(one, "expression");
  if (!from || !to || *to < *from || !actor || !expression || *to - *from > kMostPlotted)
    return wrong(refusal, "`plot` takes an actor, an expression, from and to, at most a minute");
  if (!readable(*actor, *expression, false, refusal)) return false;
  Json points = Json::array();
  for (const Session::Sample& each : session_.values(*actor, *expression, *from, *to))
    points.push_back({each.at.count, each.value});
  answer["plots"][*expression] = std::move(points);
  return true;
}

bool Host::play(const Json& one, Json&, Refusal&) {
  playing_ = get<bool>(one, "on").value_or(true);
  last_ = Clock::now();
  return true;
}

bool Host::set_speed(const Json& one, Json&, Refusal& refusal) {
  const auto value = get<double>(one, "value");
  if (!value || !(*value >= 1.0 / 64 && *value <= 4)) return wrong(refusal, "`speed` takes a value from 1/64 to 4");
  speed_ = *value;
  return true;
}

bool Host::jump(const Json& one, Json&, Refusal& refusal) {
  const auto to = ticks_of(one, "ticks");
  if (!to) return wrong(refusal, "`jump` takes ticks");
  playing_ = false;
  session_.jump(*to);
  return true;
}

bool Host::advance(const Json& one, Json&, Refusal& refusal) {
  const auto by = ticks_of(one, "ticks");
  if (!by || *by < Ticks(0) || *by > seconds(600)) return wrong(refusal, "`advance` takes ticks, at most ten minutes");
  session_.advance(*by);
  return true;
}

bool Host::step(const Json& one, Json&, Refusal&) {
  playing_ = false;
  if (get<bool>(one, "back").value_or(false))
    session_.jump(session_.now() - seconds(1.0 / 60));
  else if (attached_)
    session_.jump(session_.now() + seconds(1.0 / 60));  // over what is known: the rest is the game's
  else
    session_.step(seconds(1));
  return true;
}

bool Host::choose(const Json& one, Json&, Refusal& refusal) {
  const auto actor = actor_of(one);
  if (!actor) return wrong(refusal, "there is no such actor");
  std::erase(chosen_, *actor);
  chosen_.push_front(*actor);
  if (chosen_.size() > Server::kViewers) chosen_.pop_back();
  why_.clear();
  return true;
}

bool Host::give_back(const Json& one, Json&, Refusal& refusal) {
  const auto input = get<std::string>(one, "input");
  const auto actor = actor_of(one);
  if (!input || !actor || !session_.give_back(*actor, *input))
    return wrong(refusal, "`give_back` takes an actor and an input");
  return true;
}

bool Host::take_up(const Json& one, Json&, Refusal& refusal) {
  const auto strand = get<std::int64_t>(one, "strand");
  if (!strand || *strand < 0 || !session_.take_up(static_cast<std::uint32_t>(*strand)))
    return wrong(refusal, "that future is not kept any more");
  if (const auto to = ticks_of(one, "ticks")) session_.jump(*to);
  playing_ = false;
  return true;
}

bool Host::again(const Json& one, Json&, Refusal&) {
  session_.again(ticks_of(one, "ticks").value_or(seconds(10)));
  return true;
}

bool Host::considered(const Json& one, Json& answer, Refusal& refusal) {
  const auto from = ticks_of(one, "from"), to = ticks_of(one, "to");
  const auto actor = actor_of(one);
  if (!from || !to || *to < *from || !actor || *to - *from > seconds(10))
    return wrong(refusal, "`considered` takes an actor, from and to, at most ten seconds");
  answer["considered"] = looked(session_.considered(*actor, *from, *to));
  return true;
}

bool Host::tape(const Json& one, Json& answer, Refusal& refusal) {
  const auto from = ticks_of(one, "from"), to = ticks_of(one, "to");
  const auto actor = actor_of(one);
  if (!from || !to || *to < *from || !actor) return wrong(refusal, "`tape` takes an actor, from and to");
  Tape tape = session_.tape(*actor, *from, *to);
  tape.machine = get<std::string>(one, "machine").value_or("");
  answer["tape"] = tape_text(tape);
  return true;
}

bool Host::load(const Json& one, Json&, Refusal& refusal) {
  const auto text = get<std::string>(one, "text");
  const auto actor = actor_of(one);
  if (!text || text->size() > kMostText || !actor) return wrong(refusal, "`load` takes an actor and a tape's text");
  LoadedTape loaded = load_tape_text(*text, "the tape");
  if (loaded.tape)
    for (Finding& each : check_tape(*loaded.tape, session_.run().instance(*actor).machine(), "the tape"))
      loaded.findings.push_back(std::move(each));
  if (has_errors(loaded.findings) || !loaded.tape) {
    refusal = refusal_of(loaded.findings.front());
    return false;
  }
  if (loaded.tape->save) return wrong(refusal, "this tape begins in the middle: open it with `mobrin live --tape`");
  (void)session_.load(*actor, *loaded.tape);
  return true;
}

bool Host::write(const Json& one, Json&, Refusal& refusal) {
  const auto cannot = [&](const std::string& text) {
    refusal = {400, "write", text};
    return false;
  };
  const auto actor = actor_of(one);
  if (!actor) return cannot("there is no such actor");
  Tape tape;
  TapeStep& step = tape.steps.emplace_back();
  if (const auto set = one.find("set"); set != one.end()) {
    if (!set->is_object()) return cannot("`set` is a map of inputs to values");
    for (const auto& [name, value] : set->items()) {
      const auto read = value_of(value);
      if (!read) return cannot("an input takes a bool, a number or a word");
      step.set.emplace_back(name, *read);
    }
  }
  if (const auto press = one.find("press"); press != one.end()) {
    if (!press->is_array()) return cannot("`press` is a list of pulses");
    for (const Json& name : *press)
      if (name.is_string()) step.pulses.emplace_back(name.get<std::string>());
  }
  step.rate = get<double>(one, "rate");
  if (step.rate && !(*step.rate >= 0 && *step.rate <= 64)) return cannot("a rate lies between 0 and 64");
  if (const auto freeze = get<std::int64_t>(one, "freeze")) {
    step.freeze = Ticks(*freeze);
    if (*step.freeze < Ticks(0) || *step.freeze > kLongestFreeze) return cannot("a freeze lasts at most 6 s");
  }
  if (const auto place = get<std::string>(one, "place")) step.place = Text(*place);
  if (const auto played = get<std::int64_t>(one, "played")) {
    step.played = Ticks(*played);
    if (!step.place) return cannot("`played` says how long the state of `place` has been active");
    if (*played < 0 || *played > kMaxDurationTicks) return cannot("a state is placed as of at most 10 hours ago");
  }
  step.reset = get<bool>(one, "reset").value_or(false);
  if (const auto force = get<std::string>(one, "force")) step.force = Text(*force);
  // From an older stretch the newest machine goes on.
  const auto& newest = session_.cast_of(session_.newest()).scene.actors;
  const bool old = session_.stretch() != session_.newest() && *actor < newest.size();
  const Machine& machine = old ? *newest[*actor].machine : session_.run().instance(*actor).machine();
  const auto findings = check_tape(tape, machine, "");
  if (has_errors(findings)) {
    refusal = {
        400, std::string(text_of(findings.front().code)), findings.front().message, findings.front().remedy, "", 0, 0};
    return false;
  }
  if (attached_) {
    if (!game_.write(*actor, step))
      return cannot("the game does not let its inputs be written; take this instant out to try");
    return true;
  }
  if (!session_.write(*actor, step)) return cannot("this actor is gone");
  return true;
}

// Whether an expression can be read of an actor: as a claim's is, against the machine as it was loaded.
bool Host::readable(std::uint32_t actor, const std::string& expression, bool truth, Refusal& refusal) const {
  const auto& cast = session_.cast();
  const auto loaded = cast.machines.find(session_.run().actor(actor).file);
  if (loaded == cast.machines.end() || !loaded->second->definition)
    return wrong(refusal, "expressions are read with the machine's file at hand: name it when attaching");
  const auto found = expression_finding(*loaded->second->definition, *loaded->second->machine, Text(expression), truth);
  if (!found) return true;
  refusal = {400, std::string(text_of(found->code)), found->message, found->remedy};
  return false;
}

bool Host::set_halts(const Json& one, Json&, Refusal& refusal) {
  const auto list = one.find("list");
  std::vector<Halt> halts;
  if (list == one.end() || !list->is_array() || list->size() > 64) {
    refusal = {400, "halts", "`halts` takes a list of at most 64"};
    return false;
  }
  for (const Json& each : *list) {
    const std::string on = get<std::string>(each, "on").value_or("");
    const auto actor = get<std::int64_t>(each, "a").value_or(0);
    Halt halt;
    halt.actor = static_cast<std::uint32_t>(actor);
    halt.index = static_cast<std::uint32_t>(get<std::int64_t>(each, "i").value_or(0));
    halt.on = on == "rule"    ? Halt::On::rule
              : on == "cue"   ? Halt::On::cue
              : on == "holds" ? Halt::On::holds
                              : Halt::On::state;
    if (actor < 0 || static_cast<std::size_t>(actor) >= session_.run().actors()) continue;
    if (halt.on == Halt::On::holds) {
      halt.holds = get<std::string>(each, "holds").value_or("");
      if (!readable(halt.actor, halt.holds, true, refusal)) return false;
    }
    halts.push_back(std::move(halt));
  }
  session_.halts = std::move(halts);
  return true;
}

}  // namespace mobrin::live
