// A session: going on, going back, hands.
#include <algorithm>

#include "mobrin/check/expect.hpp"
#include "session_line.hpp"

namespace mobrin {
namespace {

constexpr Ticks kBetweenMoments = milliseconds(1000);

}  // namespace

Session::Session(std::shared_ptr<const Cast> cast, const Tape* tape, SessionLimits limits)
    : limits_(limits), run_(std::make_unique<SceneRun>(cast->scene)), line_(std::make_unique<Line>()) {
  casts_.push_back(std::move(cast));
  if (tape != nullptr && tape->save && run_->actors() == 1) {  // it begins in the middle
    Instance begun(*casts_.back()->scene.actors[0].machine);
    (void)mobrin::load(*tape->save, begun);
    (void)run_->adopt({{begun.block().begin(), begun.block().end()}});
    line_->end = now();
  }
  if (tape != nullptr) (void)load(0, *tape);
  apply_due();
  run_to(now());
  keep(false);
}

Session::~Session() = default;

Ticks Session::first() const { return line_->moments.front().spot.at; }
Ticks Session::end() const { return line_->end; }
Session::Spot Session::spot() const { return {now(), next_write_, next_record_}; }

// --- going on -------------------------------------------------------------------------------------------------------

void Session::note(const SceneRecord& record) {
  if (next_record_++ < line_->records.end()) return;  // it is known
  SessionRecord& out = line_->records.all.emplace_back();
  out.what = record.what;
  out.at = record.at;
  out.actor = record.actor;
  out.other = record.other;
  out.cue = record.cue;
  out.stretch = stretch_;
  out.entered = record.entered;
  if (record.what == SceneRecord::What::zone) out.text = record.zone;
  if (record.what == SceneRecord::What::hit)
    out.text = std::string(record.box) + (record.hurt.empty() ? "" : " on " + std::string(record.hurt));
  ++number_;
}

void Session::run_to(Ticks to) {
  run_->run(to, [this](const SceneRecord& record) { note(record); });
  waits_ = false;
  line_->end = std::max(line_->end, to);
  if (to == line_->end) line_->settled = std::max(line_->settled, next_write_);
}

void Session::apply(const SessionWrite& write, bool& written) {
  if (write.cast != nullptr) return carry(write.cast);
  if (write.blocks != nullptr) {
    (void)run_->adopt(*write.blocks);
    waits_ = false;
    ++number_;
    return;
  }
  if (write.actor >= run_->actors()) return;
  const auto index = [&](const std::string& name) -> std::optional<std::uint16_t> {
    const auto inputs = run_->instance(write.actor).machine().inputs();
    for (std::uint16_t i = 0; i < inputs.size(); ++i)
      if (inputs[i].name.text == name) return i;
    return std::nullopt;
  };
  if (write.give_back) {
    if (const auto input = index(write.give_back->text)) run_->hold(write.actor, *input, false);
    return;
  }
  TapeStep step = write.step;
  if (write.by_hand) {
    for (const auto& [name, value] : step.set)
      if (const auto input = index(name.text)) run_->hold(write.actor, *input);
    for (const Text& name : step.pulses)
      if (const auto input = index(name.text)) run_->hold(write.actor, *input);
  } else {
    const auto held = [&](const Text& name) {
      const auto input = index(name.text);
      return input && run_->holds(write.actor, *input);
    };
    std::erase_if(step.set, [&](const auto& each) { return held(each.first); });
    std::erase_if(step.pulses, held);
  }
  // What stands above a reset, a force or a step that is `settled` acts before it.
  if (takes_turn(step, written)) run_to(now());
  run_->write(write.actor, step);
  written = waits_ = true;
}

// What is written at this very instant.
void Session::apply_due(std::uint64_t until) {
  for (bool written = waits_;
       next_write_ < std::min(until, line_->writes.end()) && line_->writes[next_write_].at <= now();) {
    const SessionWrite write = line_->writes[next_write_++];
    apply(write, written);
  }
}

void Session::play_to(Ticks to) {
  while (now() < to) {
    apply_due();
    Ticks next = std::min(to, Ticks((now().count / kBetweenMoments.count + 1) * kBetweenMoments.count));
    if (next_write_ < line_->writes.end()) next = std::min(next, line_->writes[next_write_].at);
    const bool anew = next > line_->end;
    run_to(next);
    if (anew && next.count % kBetweenMoments.count == 0) keep(false);
  }
}

Ticks Session::next_wake() const {
  // In a scene something else than a machine may bring something about: it is looked at in small steps.
  Ticks next = cast().alone ? Ticks(INT64_MAX) : Ticks(now().count + kTicksPerSecond / 240);
  for (std::size_t i = 0; i < run_->actors(); ++i)
    if (!run_->gone(i)) next = std::min(next, std::max(run_->instance(i).next_wake(), Ticks(now().count + 1)));
  if (next_write_ < line_->writes.end() && line_->writes[next_write_].at > now())
    next = std::min(next, line_->writes[next_write_].at);
  return waits_ ? now() : next;
}

std::vector<bool> Session::held_now() const {
  std::vector<bool> out;
  for (const Halt& halt : halts)
    out.push_back(halt.on == Halt::On::holds && halt.actor < run_->actors() &&
                  expression_holds(run_->instance(halt.actor), halt.holds));
  return out;
}

// Whether one of the halts came about since the record of that number.
bool Session::halts_since(std::uint64_t record, std::vector<bool>& held) {
  for (std::uint64_t i = record; i < next_record_; ++i) {
    const SessionRecord& each = line_->records[i];
    if (each.what != SceneRecord::What::told) continue;
    for (const Halt& halt : halts) {
      if (halt.actor != each.actor) continue;
      const bool entered = each.cue.what == Told::enter;
      const bool moved = entered || each.cue.what == Told::leave;
      const bool is = (halt.on == Halt::On::state && entered && each.cue.state == halt.index) ||
                      (halt.on == Halt::On::rule && moved && each.cue.transition == halt.index) ||
                      (halt.on == Halt::On::cue && each.cue.what == Told::cue && each.cue.cue == halt.index);
      if (!is) continue;
      halted_ = halt;
      if (each.at < now()) jump(each.at);
      return true;
    }
  }
  const std::vector<bool> now_held = held_now();
  for (std::size_t i = 0; i < halts.size(); ++i) {
    if (!now_held[i] || held[i]) continue;
    halted_ = halts[i];
    return true;
  }
  held = now_held;
  return false;
}

void Session::advance(Ticks dt) {
  halted_.reset();
  const Ticks to = now() + std::max(dt, Ticks(0));
  if (halts.empty()) return play_to(to);
  std::vector<bool> held = waits_ && held_before_.size() == halts.size() ? held_before_ : held_now();
  while (now() < to) {
    apply_due();
    const std::uint64_t record = next_record_;
    const Ticks wake = std::min(to, next_wake());
    if (wake <= now())
      run_to(now());  // what was written settles first
    else
      play_to(wake);
    if (halts_since(record, held)) return;
  }
}

void Session::step(Ticks most) {
  Ticks next = now() + most;
  for (std::size_t i = 0; i < run_->actors(); ++i)
    if (!run_->gone(i)) {
      const Ticks change = run_->instance(i).next_change();
      if (change > now()) next = std::min(next, change);
    }
  halted_.reset();
  play_to(next);
}

// --- going back -----------------------------------------------------------------------------------------------------

void Session::keep(bool reloaded) {
  Moment& moment = line_->moments.emplace_back();
  moment.spot = spot();
  moment.stretch = stretch_;
  moment.reloaded = reloaded;
  moment.state = run_->save();
  forget();
}

// What is too old, or too much.
void Session::forget() {
  const auto size = [](const std::deque<Moment>& moments) {
    std::size_t out = 0;
    for (const Moment& each : moments) out += each.state.bytes();
    return out;
  };
  auto& moments = line_->moments;
  std::size_t bytes = size(moments);
  for (const auto& strand : strands_) bytes += size(strand->moments);
  while (bytes > limits_.bytes && !strands_.empty()) {
    bytes -= size(strands_.back()->moments);
    strands_.pop_back();
  }
  bool gone = false;
  while (moments.size() > 2 && (bytes > limits_.bytes || moments[1].spot.at < moments.back().spot.at - limits_.kept)) {
    bytes -= moments.front().state.bytes();
    moments.pop_front();
    gone = true;
  }
  if (gone) {
    const Spot& first = moments.front().spot;
    while (line_->writes.first < first.writes) line_->writes.all.pop_front(), ++line_->writes.first;
    while (line_->records.first < first.records) line_->records.all.pop_front(), ++line_->records.first;
    std::erase_if(strands_, [&](const auto& each) { return each->parent == 0 && each->from.at < first.at; });
  }
  while (strands_.size() > limits_.strands) strands_.pop_back();
  // What hangs on a strand that is gone cannot be reached any more.
  for (bool more = true; more;) {
    const auto lost = [&](const auto& each) {
      return each->parent != 0 && std::none_of(strands_.begin(), strands_.end(),
                                               [&](const auto& other) { return other->id == each->parent; });
    };
    more = std::erase_if(strands_, lost) > 0;
  }
}

void Session::begin_anew() {
  run_ = std::make_unique<SceneRun>(casts_[0]->scene);
  stretch_ = 0;
  next_write_ = next_record_ = 0;
  waits_ = false;
  ++number_;
}

void Session::go_to(const Moment& moment) {
  if (moment.stretch != stretch_) {
    run_ = std::make_unique<SceneRun>(casts_[moment.stretch]->scene);
    stretch_ = moment.stretch;
  }
  run_->restore(moment.state);
  next_write_ = moment.spot.writes;
  next_record_ = moment.spot.records;
  waits_ = false;
  ++number_;
}

// The first one if none is so.
const Session::Moment& Session::last_moment(const std::function<bool(const Moment&)>& is) const {
  const auto& all = line_->moments;
  const auto found = std::find_if(all.rbegin(), all.rend(), is);
  return found == all.rend() ? all.front() : *found;
}

void Session::jump(Ticks to) {
  to = std::clamp(to, first(), end());
  go_to(last_moment([&](const Moment& each) {
    return each.spot.at < to || (each.spot.at == to && (!each.reloaded || to == end()));
  }));
  play_to(to);
  if (to == end()) settle_end();
}

// At the end: what took effect there does, what waits waits.
void Session::settle_end() {
  if (next_write_ < line_->settled) {
    apply_due(line_->settled);
    run_to(now());
  }
  apply_due();
}

// --- hands ----------------------------------------------------------------------------------------------------------

void Session::carry(const std::shared_ptr<const Cast>& cast) {
  const auto known = std::find(casts_.begin(), casts_.end(), cast);
  const auto index = static_cast<std::uint32_t>(known - casts_.begin());
  if (known == casts_.end()) casts_.push_back(cast);
  auto next = std::make_unique<SceneRun>(cast->scene);
  losses_ = next->carry_over(*run_);
  run_ = std::move(next);
  stretch_ = index;
  ++number_;
}

// Leaves what is known after now, if anything is; what tapes will write stays to come.
void Session::leave_future() {
  if (now() >= end() && next_record_ == line_->records.end()) return;
  std::deque<SessionWrite> to_come;
  for (std::uint64_t i = next_write_; i < line_->writes.end(); ++i)
    if (!line_->writes[i].by_hand && line_->writes[i].cast == nullptr) to_come.push_back(line_->writes[i]);
  cut(spot(), ++last_strand_);
  line_->writes.append(to_come);
  forget();
}

// From an older stretch the newest cast goes on.
void Session::renew() {
  if (stretch_ != newest()) reload(casts_.back());
}

void Session::begin_anew(SessionWrite write) {
  leave_future();
  if (write.cast == nullptr) renew();
  write.at = now();
  if (!waits_ && !halts.empty()) held_before_ = held_now();
  const bool reloads = write.cast != nullptr;
  put_in_line(std::move(write));
  if (reloads) keep(true);
}

// Among what is to come, by its instant; what it stands beside there comes after it only if it is of later.
void Session::insert(SessionWrite write) {
  auto& all = line_->writes.all;
  const auto next = all.begin() + static_cast<std::ptrdiff_t>(next_write_ - line_->writes.first);
  const auto later =
      std::upper_bound(next, all.end(), write.at, [](Ticks at, const SessionWrite& other) { return at < other.at; });
  all.insert(later, std::move(write));
  ++number_;
}

// As the next thing that is written, now.
void Session::put_in_line(SessionWrite write) {
  auto& all = line_->writes.all;
  all.insert(all.begin() + static_cast<std::ptrdiff_t>(next_write_ - line_->writes.first), std::move(write));
  ++number_;
  apply_due();
}

bool Session::write(std::uint32_t actor, const TapeStep& step) {
  if (actor >= run_->actors() || run_->gone(actor)) return false;
  SessionWrite write;
  write.actor = actor;
  write.step = step;
  begin_anew(std::move(write));
  return true;
}

bool Session::give_back(std::uint32_t actor, const std::string& input) {
  if (actor >= run_->actors()) return false;
  SessionWrite write;
  write.actor = actor;
  write.give_back = input;
  begin_anew(std::move(write));
  return true;
}

void Session::reload(std::shared_ptr<const Cast> cast) {
  SessionWrite write;
  write.cast = std::move(cast);
  begin_anew(std::move(write));
}

void Session::again(Ticks span) {
  const Ticks until = now(), from = std::max(first(), until - span);
  std::deque<SessionWrite> hands;
  for (std::uint64_t i = line_->writes.first; i < next_write_; ++i) {
    const SessionWrite& each = line_->writes[i];
    if (each.at >= from && each.by_hand && each.cast == nullptr) hands.push_back(each);
  }
  jump(from);
  // What was written at this very instant is among what comes again.
  leave_future();
  renew();
  for (SessionWrite& each : hands) insert(std::move(each));
  play_to(until);
}

bool Session::load(std::uint32_t actor, const Tape& tape) {
  if (actor >= run_->actors()) return false;
  leave_future();
  for (const TapeStep& step : tape.steps) {
    SessionWrite write;
    write.at = now() + step.at;
    write.actor = actor;
    write.step = step;
    write.by_hand = false;
    insert(std::move(write));
  }
  return true;
}

}  // namespace mobrin
