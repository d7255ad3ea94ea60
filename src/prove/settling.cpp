#include "settling.hpp"

#include <algorithm>
#include <array>
#include <map>
#include <set>
#include <utility>

namespace mobrin::proof {

std::vector<std::uint16_t> pulses_asked(const Asked& asked) {
  std::set<std::uint16_t> out;
  for (const auto* list : {&asked.assumed, &asked.before, &asked.after})
    for (const Term& term : *list)
      each_term(term, [&](const Term& each) {
        if (each.kind == Term::Kind::pulse) out.insert(each.index);
      });
  return {out.begin(), out.end()};
}

std::uint64_t entered_in(const Moment& moment) {
  std::uint64_t out = 0;
  for (std::size_t r = 0; r < moment.fresh.size() && r < 64; ++r)
    if (moment.fresh[r] != kNoIndex) out |= std::uint64_t{1} << r;
  return out;
}

std::uint64_t begun_in(const Moment& moment) {
  std::uint64_t out = entered_in(moment);
  for (std::size_t r = 0; r < moment.begun.size() && r < 64; ++r)
    if (moment.begun[r] != 0) out &= ~(std::uint64_t{1} << r);
  return out;
}

std::uint64_t looped_in(const Truths& looped) {
  std::uint64_t out = 0;
  for (std::size_t r = 0; r < looped.size() && r < 64; ++r)
    if (looped[r] == Truth::yes) out |= std::uint64_t{1} << r;
  return out;
}

Heard::Heard(const Model& model, const std::vector<Term>& asked)
    : seen_(model.machine().cues().size(), false), told_(seen_) {
  for (const Rule& rule : model.rules())
    if (rule.cue != kNoIndex) seen_[rule.cue] = true;
  for (const Term& term : asked)
    each_term(term, [&](const Term& each) {
      if (each.kind == Term::Kind::cue) told_[each.index] = true;
    });
}

void Heard::forget_others(Moment& moment) const {
  for (std::size_t c = 0; c < seen_.size(); ++c) {
    if (!seen_[c]) moment.cues[c] = Truth::no;
    if (!told_[c]) moment.told[c] = Truth::no;
  }
}

Truths Heard::told_of(const Moment& moment) const {
  return std::find(told_.begin(), told_.end(), true) == told_.end() ? Truths() : moment.told;
}

bool Known::One::covers(const One& other) const {
  for (std::size_t w = 0; w < maybe.size(); ++w)
    if ((~maybe[w] & (other.maybe[w] | (yes[w] ^ other.yes[w]))) != 0) return false;
  return true;
}

std::optional<std::uint32_t> Known::find_or_add(std::string key, const Truths& pulses, std::uint32_t number) {
  const std::size_t words = (pulses.size() + 63) / 64;
  One one{std::vector<std::uint64_t>(words, 0), std::vector<std::uint64_t>(words, 0), number};
  for (std::size_t i = 0; i < pulses.size(); ++i) {
    one.maybe[i / 64] |= std::uint64_t{pulses[i] == Truth::maybe} << i % 64;
    one.yes[i / 64] |= std::uint64_t{pulses[i] == Truth::yes} << i % 64;
  }
  std::vector<One>& alike = by_key_[std::move(key)];
  for (const One& each : alike)
    if (each.covers(one)) return each.number;
  alike.push_back(std::move(one));
  return std::nullopt;
}

bool may_run_away(const std::vector<std::vector<Next>>& next, const std::vector<Taken>& taken, std::size_t beside) {
  std::vector<std::uint32_t> waiting(next.size(), 0), order;
  for (const auto& all : next)
    for (const Next& each : all) ++waiting[each.to];
  for (std::uint32_t i = 0; i < next.size(); ++i)
    if (waiting[i] == 0) order.push_back(i);
  for (std::size_t i = 0; i < order.size(); ++i)
    for (const Next& each : next[order[i]])
      if (--waiting[each.to] == 0) order.push_back(each.to);
  if (order.size() < next.size()) return true;
  // How many rounds may follow each moment before a pulse is taken.
  std::vector<std::size_t> rounds(next.size(), 0);
  std::size_t most = 0;
  for (std::size_t i = order.size(); i-- > 0;) {
    for (const Next& each : next[order[i]])
      rounds[order[i]] = std::max(rounds[order[i]], rounds[each.to] + (each.round ? 1 : 0));
    most = std::max(most, rounds[order[i]]);
  }
  std::map<std::uint16_t, std::size_t> by_pulse;
  for (const Taken& each : taken) {
    std::size_t& after = by_pulse[each.pulse];
    after = std::max(after, 1 + rounds[each.to]);
  }
  for (const auto& [pulse, after] : by_pulse) most += after;
  return most + beside > kMostRounds;
}

bool may_undo_a_press(const std::vector<std::vector<Next>>& next, const std::vector<Taken>& taken,
                      const std::vector<Stop>& stops) {
  constexpr std::size_t kMostVisits = 2'000'000;
  std::vector<std::vector<std::uint32_t>> after(next.size());
  for (std::size_t i = 0; i < next.size(); ++i)
    for (const Next& each : next[i]) after[i].push_back(each.to);
  for (const Taken& each : taken) after[each.from].push_back(each.to);
  // For which search each moment was met last; twice, as the leaf may not have been active on the way there.
  std::array<std::vector<std::uint32_t>, 2> met = {std::vector<std::uint32_t>(stops.size(), 0),
                                                   std::vector<std::uint32_t>(stops.size(), 0)};
  std::vector<std::pair<std::uint32_t, bool>> open;
  std::uint32_t search = 0;
  std::size_t visits = 0;
  for (const Taken& press : taken) {
    const Stop &before = stops[press.from], &then = stops[press.to];
    for (std::size_t r = 0; r < before.leaves.size(); ++r) {
      const std::uint16_t leaf = before.leaves[r];
      if (leaf == kNoIndex || (leaf == then.leaves[r] && then.fresh[r] == kNoIndex)) continue;
      ++search;
      const auto visit = [&](std::uint32_t to, bool gone) {
        gone = gone || stops[to].leaves[r] != leaf;
        if (met[gone ? 1 : 0][to] != search) open.emplace_back(to, gone);
        met[gone ? 1 : 0][to] = search;
      };
      open.clear();
      visit(press.to, false);
      while (!open.empty()) {
        const auto [at, gone] = open.back();
        open.pop_back();
        if ((gone && stops[at].leaves[r] == leaf) || ++visits > kMostVisits) return true;
        for (const std::uint32_t to : after[at]) visit(to, gone);
      }
    }
  }
  return false;
}

}  // namespace mobrin::proof
