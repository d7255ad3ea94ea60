// A session: futures that were left, what is known, what runs elsewhere.
#include <algorithm>
#include <cassert>
#include <iterator>

#include "mobrin/check/expect.hpp"
#include "mobrin/io/record.hpp"
#include "session_line.hpp"

namespace mobrin {

// --- what runs elsewhere --------------------------------------------------------------------------------------------

bool Session::same_as(const std::vector<Instance>& others) const {
  for (std::size_t i = 0; i < others.size(); ++i)
    if (others[i].hash() != run_->instance(i).hash()) return false;
  return true;
}

bool Session::follow(std::vector<SessionWrite> writes, const std::vector<std::vector<std::byte>>& blocks) {
  const auto& actors = casts_.back()->scene.actors;
  if (blocks.size() != actors.size() || blocks.empty() || !casts_.back()->scene.still) return false;
  std::vector<Instance> others;
  for (std::size_t i = 0; i < blocks.size(); ++i) {
    Instance& other = others.emplace_back(*actors[i].machine);
    if (blocks[i].size() != other.machine().block_size()) return false;
    std::vector<std::byte> whole(other.block().begin(), other.block().end());
    std::copy(blocks[i].begin(), blocks[i].end(), whole.begin());
    if (!other.restore(whole) || other.now() != others.front().now()) return false;
  }
  const Ticks at = others.front().now(), shown = now();
  const bool was_newest = shown == end();
  const auto take = [&] {
    SessionWrite write;
    write.at = at;
    std::vector<std::vector<std::byte>> whole;
    for (const Instance& each : others) whole.emplace_back(each.block().begin(), each.block().end());
    write.blocks = std::make_shared<const std::vector<std::vector<std::byte>>>(std::move(whole));
    insert(write);
    bool written = false;
    apply(write, written);  // its instant may lie ahead of what is shown
    ++next_write_;
  };
  if (!follows_) {  // what was before is not known
    follows_ = true;
    strands_.clear();
    *line_ = Line{};
    next_write_ = next_record_ = 0;
    take();
    line_->end = at;
    keep(false);
    return true;
  }
  if (!was_newest) jump(end());
  if (at < now()) {  // it went back
    jump(std::max(at, first()));
    leave_future();
  } else {
    for (SessionWrite& write : writes) {
      write.at = std::clamp(write.at, now(), at);
      play_to(write.at);
      put_in_line(std::move(write));
    }
    play_to(at);
    if (waits_ && !same_as(others)) run_to(now());  // an advance of no time
  }
  if (now() != at || !same_as(others)) {
    take();
    line_->end = std::max(line_->end, at);
    keep(false);  // who goes back there finds what was taken
  }
  if (!was_newest) jump(shown);
  return true;
}

// --- strands --------------------------------------------------------------------------------------------------------

// Cuts the line there; what comes after becomes a strand of its own.
void Session::cut(const Spot& at, std::uint32_t id) {
  const auto strand = std::make_shared<Strand>();
  strand->id = id;
  strand->from = at;
  strand->end = line_->end;
  strand->settled = line_->settled;
  line_->writes.cut(at.writes, strand->writes);
  line_->records.cut(at.records, strand->records);
  auto& moments = line_->moments;
  while (moments.back().spot.at > at.at || moments.back().spot.writes > at.writes ||
         moments.back().spot.records > at.records) {
    strand->moments.push_front(std::move(moments.back()));
    moments.pop_back();
  }
  line_->end = at.at;
  line_->settled = std::min(line_->settled, at.writes);
  for (const auto& other : strands_)
    if (other->parent == 0 &&
        (other->from.at > at.at || other->from.writes > at.writes || other->from.records > at.records))
      other->parent = id;
  strands_.insert(strands_.begin(), strand);
  ++number_;
}

void Session::append(Strand& strand) {
  line_->writes.append(strand.writes);
  line_->records.append(strand.records);
  for (Moment& each : strand.moments) line_->moments.push_back(std::move(each));
  line_->end = strand.end;
  line_->settled = strand.settled;
  for (const auto& other : strands_)
    if (other->parent == strand.id) other->parent = 0;
}

bool Session::take_up(std::uint32_t id) {
  const auto find = [&] {
    return std::find_if(strands_.begin(), strands_.end(), [&](const auto& each) { return each->id == id; });
  };
  if (find() == strands_.end()) return false;
  if (const std::uint32_t parent = (*find())->parent; parent != 0 && !take_up(parent)) return false;
  const std::shared_ptr<Strand> strand = *find();
  if (now() > strand->from.at || next_write_ > strand->from.writes || next_record_ > strand->from.records) {
    // To before it; what is known there is the same in both.
    const Spot& at = strand->from;
    go_to(last_moment([&](const Moment& each) {
      return each.spot.at <= at.at && each.spot.writes <= at.writes && each.spot.records <= at.records;
    }));
    play_to(at.at);
  }
  cut(strand->from, ++last_strand_);
  std::erase(strands_, strand);
  append(*strand);
  forget();
  return true;
}

std::vector<StrandInfo> Session::strands() const {
  std::vector<StrandInfo> out;
  for (const auto& each : strands_) out.push_back({each->id, each->from.at, each->end, each->writes.size()});
  return out;
}

// --- what is known --------------------------------------------------------------------------------------------------

namespace {

template <class T>
std::vector<T> part_of(const std::deque<T>& all, Ticks from, Ticks to, std::size_t most) {
  const auto before = [](const T& each, Ticks at) { return each.at < at; };
  const auto after = [](Ticks at, const T& each) { return at < each.at; };
  auto first = std::lower_bound(all.begin(), all.end(), from, before);
  const auto last = std::upper_bound(first, all.end(), to, after);
  if (static_cast<std::size_t>(last - first) > most) first = last - static_cast<std::ptrdiff_t>(most);
  return {first, last};
}

}  // namespace

std::vector<SessionRecord> Session::records(Ticks from, Ticks to, std::size_t most) const {
  return part_of(line_->records.all, from, to, most);
}

std::vector<SessionWrite> Session::writes(Ticks from, Ticks to, std::size_t most) const {
  return part_of(line_->writes.all, from, to, most);
}

std::vector<SessionRecord> Session::records_of(std::uint32_t strand, std::size_t most) const {
  for (const auto& each : strands_)
    if (each->id == strand) return part_of(each->records, Ticks(0), Ticks(INT64_MAX), most);
  return {};
}

Tape Session::tape(std::uint32_t actor, Ticks from, Ticks to) {
  Tape out;
  const Ticks shown = now();
  // Before anything was written: what is kept of the first instant is what came of it.
  const bool anew = from <= Ticks(0) && first() == Ticks(0);
  if (anew)
    begin_anew();
  else
    jump(from);
  to = std::clamp(to, now(), end());
  // Within one stretch: with a reload the instance is another.
  for (std::uint64_t i = next_write_; i < line_->writes.end(); ++i)
    if (line_->writes[i].cast != nullptr) to = std::min(to, line_->writes[i].at);
  if (actor < run_->actors()) {
    const std::uint32_t stretch = stretch_;
    SavedInstance begun = save(run_->instance(actor));
    Recorder recorder(run_->listened(actor), run_->actor(actor).name.text);
    if (anew) apply_due(line_->moments.front().spot.writes), run_to(now());
    play_to(to);
    assert(stretch == stretch_);
    (void)stretch;
    out = recorder.tape();
    if (begun.now > Ticks(0)) out.save = std::move(begun);
  }
  jump(shown);
  return out;
}

namespace {

// What a trace hook hears, by rounds.
class Heard {
 public:
  [[nodiscard]] TraceHook hook() {
    return {[](void* heard, const Considered& each) { static_cast<Heard*>(heard)->add(each); }, this};
  }
  // All of [from, to]: behind what a round looked at what it did not.
  [[nodiscard]] std::vector<Session::Looked> between(Ticks from, Ticks to) {
    std::vector<Session::Looked> out;
    for (Round& each : rounds_) {
      if (each.round.at() < from || each.round.at() > to) continue;
      std::move(each.looked.begin(), each.looked.end(), std::back_inserter(out));
      for (const Skipped& skipped : each.round.skipped())
        out.push_back({each.round.at(), each.round.number(), skipped.transition, Verdict::event, {}, {}, skipped});
    }
    return out;
  }

 private:
  struct Round {
    SettlingRound round;
    std::vector<Session::Looked> looked;
  };
  void add(const Considered& each) {
    if (!rounds_.empty() && rounds_.back().round.goes_on_with(each)) {
      rounds_.back().round.add(each);
    } else {
      // Scenes try out what lies ahead: the last time counts.
      while (!rounds_.empty() &&
             std::pair(rounds_.back().round.at(), rounds_.back().round.number()) >= std::pair(each.at, each.round))
        rounds_.pop_back();
      rounds_.push_back({SettlingRound(each), {}});
    }
    rounds_.back().looked.push_back({each.at, each.round, each.transition, each.verdict, each.guard_parts(),
                                     each.verdict == Verdict::window ? each.shown() : Shown()});
  }

  std::vector<Round> rounds_;
};

}  // namespace

std::vector<Session::Looked> Session::considered(std::uint32_t actor, Ticks from, Ticks to) {
  Heard heard;
  const Ticks shown = now();
  // From before the first instant, so that what settles at it is seen.
  if (from <= first())
    go_to(line_->moments.front());
  else
    jump(Ticks(from.count - 1));
  if (actor < run_->actors()) {
    run_->set_trace(actor, heard.hook());
    play_to(std::min(to, end()));
    // Also what was written at the last instant, where it took effect.
    const bool known = next_write_ < line_->settled && line_->writes[next_write_].at == now();
    if (known) {
      apply_due(line_->settled);
      run_to(now());
    }
    if (actor < run_->actors()) run_->set_trace(actor, {});
  }
  jump(shown);
  return heard.between(from, to);
}

std::vector<Session::Sample> Session::values(std::uint32_t actor, std::string_view expression, Ticks from, Ticks to,
                                             std::size_t most) {
  std::vector<Sample> out;
  const Ticks shown = now();
  const std::uint32_t stretch = stretch_;
  const std::uint64_t number = number_;
  from = std::max(from, first());
  to = std::min(to, end());
  if (from > to || most == 0) return out;
  jump(from);
  for (std::size_t i = 1;; ++i) {
    if (stretch_ == stretch && actor < run_->actors() && !run_->gone(actor)) {
      const double value = expression_value(run_->instance(actor), expression);
      if (out.empty() || out.back().value != value) out.push_back({now(), value});
    }
    if (now() >= to) break;
    play_to(std::max(now() + Ticks(1),
                     from + Ticks((to - from).count / static_cast<std::int64_t>(most) * static_cast<std::int64_t>(i))));
    if (i >= most) play_to(to);
  }
  jump(shown);
  number_ = number;  // what is known is what it was
  return out;
}

std::vector<Session::Looked> Session::would_consider(std::uint32_t actor) {
  if (actor >= run_->actors()) return {};
  Heard heard;
  run_->set_trace(actor, heard.hook());
  run_->instance(actor).consider();
  run_->set_trace(actor, {});
  return heard.between(Ticks(0), Ticks(INT64_MAX));
}

}  // namespace mobrin
