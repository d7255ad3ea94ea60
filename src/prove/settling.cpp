#include "settling.hpp"

#include <algorithm>
#include <set>

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

bool Known::One::covers(const One& other) const {
  for (std::size_t w = 0; w < maybe.size(); ++w)
    if ((~maybe[w] & (other.maybe[w] | (yes[w] ^ other.yes[w]))) != 0) return false;
  return true;
}

std::optional<std::uint32_t> Known::find_or_add(std::string key, const std::vector<Truth>& pulses,
                                                std::uint32_t number) {
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

std::optional<std::size_t> most_rounds(const std::vector<std::vector<Next>>& next) {
  std::vector<std::uint32_t> waiting(next.size(), 0), free;
  std::vector<std::size_t> rounds(next.size(), 0);
  for (const auto& all : next)
    for (const Next& each : all) ++waiting[each.to];
  for (std::uint32_t i = 0; i < next.size(); ++i)
    if (waiting[i] == 0) free.push_back(i);
  std::size_t ordered = 0, most = 0;
  while (!free.empty()) {
    const std::uint32_t i = free.back();
    free.pop_back();
    ++ordered;
    most = std::max(most, rounds[i]);
    for (const Next& each : next[i]) {
      rounds[each.to] = std::max(rounds[each.to], rounds[i] + (each.round ? 1 : 0));
      if (--waiting[each.to] == 0) free.push_back(each.to);
    }
  }
  return ordered < next.size() ? std::nullopt : std::optional(most);
}

bool may_run_away(const std::vector<std::vector<Next>>& next, std::size_t pulses) {
  const auto most = most_rounds(next);
  return !most || (*most + 1) * (pulses + 1) - 1 > kMostRounds;
}

}  // namespace mobrin::proof
