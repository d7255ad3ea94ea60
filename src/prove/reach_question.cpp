// What is asked of each instant that is come to, and what is waited for after it.
#include <algorithm>

#include "model_parts.hpp"
#include "reach.hpp"

namespace mobrin::proof {

// What is assumed is kept, or the run has ended before.
void Reach::begin(const Place& place) {
  Place next = place;
  next.stage = Stage::settles;
  const Config nothing{Indices(place.moment.config.leaves.size(), kNoIndex), model_.at_start()};
  Config stood;
  if (place.stood.size() > 0) {  // what is read before is read as it stood
    stood = place.moment.config;
    stood.variables = place.stood;
    next.stood = Values();
  }
  const Config& config = place.waits == kFirst ? nothing : place.stood.size() > 0 ? stood : place.moment.config;
  bool kept = true;
  for (const Term& term : question_->asked.assumed) {
    const auto truth = truth_of(term, place, config, nullptr);
    if (!truth) return;
    kept = kept && *truth != Truth::no;
  }
  if (!kept) return;
  kept_ = true;
  for (const Term& term : question_->asked.before) {
    const auto truth = truth_of(term, place, config, nullptr);
    if (!truth) return;
    next.first = *truth;
  }
  if (next.waits == kFirst) {
    next.waits = 0;
  } else if (model_.may_be_done(place.moment.config.leaves)) {
    // One that is done rests for ever, whatever is written.
    Place rest = next;
    rest.stage = Stage::rests;
    std::fill(rest.moment.told.begin(), rest.moment.told.end(), Truth::no);
    (void)add(std::move(rest));
  }
  const std::uint32_t number = add(std::move(next));
  next_[place.number].push_back({number, false});
}

Truths Reach::pulses_written(const Place& place) const {
  Truths out(inputs_.size(), place.moment.timed ? Truth::no : Truth::maybe);
  for (std::size_t i = 0; i < asked_pulses_.size(); ++i)
    out[asked_pulses_[i]] = (place.written >> i & 1) != 0 ? Truth::yes : Truth::no;
  return out;
}

std::optional<Truth> Reach::truth_of(const Term& term, const Place& place, const Config& config, const Truths* cues) {
  const Flags active = model_.active(config);
  const Truths written = pulses_written(place);
  const View view{&inputs_, &config.variables, &active, &written, cues, &model_.traits()};
  const Truth truth = proof::holds(term, view);
  bool splits = false;
  if (truth == Truth::maybe)
    each_term(term,
              [&](const Term& each) { splits = splits || (each.kind == Term::Kind::input && splits_[each.index]); });
  if (!splits) return truth;
  cared_for_ = splits_;  // of all that is asked for
  split(place, term, view);
  return std::nullopt;
}

bool Reach::ask(const Place& place) {
  if (question_ == nullptr) {
    rest_at(place.moment.config, 0);
    return true;
  }
  Truth each[] = {place.first, Truth::no};
  std::size_t at = question_->asked.before.size();
  for (const Term& term : question_->asked.after) {
    const auto truth = truth_of(term, place, place.moment.config, &place.moment.told);
    if (!truth) return false;
    each[at++] = *truth;
  }
  const std::uint32_t rest = rest_at(place.moment.config, waits_after(place, each[0], each[1]));
  if (ways_ != nullptr) {
    ways_->places[place.number].rest = rest;
    ways_->places[place.number].broken = std::exchange(broken_, false);
  }
  return true;
}

// Whether it waits when an instant is over, and where; `broken_` where the instant is against what is claimed.
std::uint32_t Reach::waits_after(const Place& place, Truth first, Truth second) {
  first_met_ = first_met_ || first != Truth::no;
  const bool before = place.waits != 0;
  bool waits = false;
  switch (question_->kind) {
    case ClaimKind::never:
      broken_ = broken_ || first != Truth::no;
      break;
    case ClaimKind::always:
      broken_ = broken_ || first != Truth::yes;
      break;
    case ClaimKind::once:
      waits = before || first != Truth::no;
      broken_ = broken_ || (waits && second != Truth::yes);
      break;
    case ClaimKind::next:
      broken_ = broken_ || (before && first != Truth::yes && second != Truth::yes);
      waits = first != Truth::no;
      break;
    case ClaimKind::when:
    case ClaimKind::within:
      waits = (before || first != Truth::no) && second != Truth::yes;
      broken_ = broken_ || (waits && !question_->timed);
      break;
    case ClaimKind::can:
      break;
  }
  if (!waits) return 0;
  if (!question_->timed) return 1;
  const Config& config = place.moment.config;
  Waiting waiting{before ? waiters_[place.waits - 1] : Indices(), config.leaves, entered_in(place.moment),
                  model_.may_be_done_meanwhile(place.moment.config)};
  std::string key;
  add_bytes(key, config.leaves);
  std::string way = key + "<";
  add_bytes(way, waiting.from);
  add_bytes(way, std::vector<std::uint64_t>{waiting.entered, waiting.rests ? 1U : 0U});
  if (waits_on_.insert(std::move(way)).second) waiting_.push_back(std::move(waiting));
  const auto [found, fresh] = waits_in_.try_emplace(key, static_cast<std::uint32_t>(waiters_.size() + 1));
  if (fresh) waiters_.push_back(config.leaves);
  return found->second;
}

}  // namespace mobrin::proof
