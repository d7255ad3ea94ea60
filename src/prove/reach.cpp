#include "reach.hpp"

#include <algorithm>

#include "model_parts.hpp"

namespace mobrin::proof {

namespace {

constexpr std::size_t kMostPlaces = 300'000;  // that are kept
constexpr std::size_t kStepsOfAState = 150;
constexpr std::size_t kMostWork = 150'000'000;   // steps by states: each is gone through at a step
constexpr std::size_t kMostReaders = 5'000'000;  // states by inputs

}  // namespace

Reach::Reach(Model& model, std::size_t steps, const Question* question, Ways* ways)
    : model_(model),
      question_(question),
      heard_(model, question == nullptr ? std::vector<Term>() : question->asked.after),
      limit_(std::min(steps + kStepsOfAState * model.states().size(), kMostWork / model.states().size())),
      asked_inputs_(model.machine().inputs().size(), false),
      ways_(ways) {
  if (question != nullptr) {
    asked_pulses_ = pulses_asked(question->asked);
    for (const auto* list : {&question->asked.assumed, &question->asked.before, &question->asked.after})
      for (const Term& term : *list) {
        model_.cut(term);
        each_term(term, [&](const Term& each) {
          if (each.kind == Term::Kind::input) asked_inputs_[each.index] = true;
        });
      }
  }
  if (model_.region_count() > kMostTogether || asked_pulses_.size() > kMostTogether ||
      model_.states().size() * asked_inputs_.size() > kMostReaders)
    return;
  find_readers();
  leave_all();
  inputs_.resize(model_.cells().size());
  splits_.resize(inputs_.size());
  for (std::uint16_t i = 0; i < inputs_.size(); ++i) known_now_.push_back({i});
  know({});
  // Who takes so many pulses at once surely does not come to rest.
  std::vector<bool> taken(inputs_.size(), false);
  for (const Rule& rule : model_.rules())
    if (rule.def != nullptr && rule.event == Event::pulse) taken[rule.pulse] = true;
  if (std::count(taken.begin(), taken.end(), true) > static_cast<std::ptrdiff_t>(kMostRounds)) {
    unruly_ = true;
    model_.set_unruly(true);
  }
  if (ways_ != nullptr) {
    (void)explore(limit_);
    ways_->next = std::move(next_);
    ways_->taken = std::move(taken_);
    return;
  }
  const std::vector<Knowledge> found = model_.known();
  const bool was_unruly = model_.unruly(), begins_unruly = unruly_, remembered = model_.remembers();
  const std::vector<Knowing> all = ways_to_know();
  const auto explore_with = [&](const Knowing& each) {
    const auto explore_now = [&](const Knowing& known) {
      model_.know(known.known);
      model_.remember(known.remembers);
      known_then_ = known.known;
      remembered_then_ = known.remembers;
      model_.set_unruly(was_unruly);
      unruly_ = begins_unruly;
      whole_ = explore_until_sure(steps_ + limit_ / 8 * known.eighths / (care_ == Care::all ? 1 : 2));
    };
    explore_now(each);
    if (whole_ && runaway_ && question_ != nullptr)
      if (const auto more = stopping(each)) {
        explore_now(*more);
        if (!whole_) explore_now(each);
      }
    return whole_ && (!broken_ || each.exact);
  };
  const Care most = most_care();
  for (const Care care : {Care::all, Care::read_twice, Care::none}) {
    if (whole_ || care < most) continue;
    care_ = care;
    (void)std::any_of(all.begin(), all.end(), explore_with);
  }
  model_.know(found);
  model_.remember(remembered);
}

// Whoever waits for presses and reads an input that no other rule reads doubles what there is to look at, as each may
// be pressed or not whatever the others are: from some number on there is no use in trying.
Reach::Care Reach::most_care() const {
  constexpr double kMostTogetherKnown = 1'000;
  for (std::size_t s = 0; s < reads_.size(); ++s) {
    double ways = 1;
    for (const std::uint32_t index : model_.states()[s].rules) {
      const Rule& rule = model_.rules()[index];
      if (rule.def == nullptr || rule.event != Event::pulse || !rule.when) continue;
      each_term(*rule.when, [&](const Term& term) {
        if (term.kind == Term::Kind::input && std::count(reads_[s].begin(), reads_[s].end(), term.index) == 1)
          ways *= static_cast<double>(std::max<std::size_t>(model_.cells()[term.index].size(), 1));
      });
    }
    if (ways > kMostTogetherKnown) return Care::read_twice;
  }
  return Care::all;
}

// For the guards that may be looked at in one round.
void Reach::care_for(const Config& config) {
  cared_for_ = splits_;
  if (care_ == Care::all) return;
  std::vector<std::uint16_t> reads;
  Indices met;
  if (care_ == Care::read_twice)
    for (const std::uint16_t leaf : config.leaves)
      for (std::uint16_t up = leaf; up != kNoIndex; up = up == 0 ? kNoIndex : model_.states()[up].parent) {
        if (std::find(met.begin(), met.end(), up) != met.end()) break;
        met.push_back(up);
        reads.insert(reads.end(), reads_[up].begin(), reads_[up].end());
      }
  std::sort(reads.begin(), reads.end());
  for (std::uint16_t i = 0; i < cared_for_.size(); ++i) {
    const auto [first, last] = std::equal_range(reads.begin(), reads.end(), i);
    if (!asked_inputs_[i] && last - first < 2) cared_for_[i] = false;
  }
}

// Once more where it may not come to rest.
bool Reach::explore_until_sure(std::size_t enough) {
  for (;;) {
    runaway_ = broken_ = kept_ = first_met_ = false;
    if (!explore(enough)) return false;
    if (broken_ || !runaway_ || unruly_) return true;  // against a claim: nothing more need be known
    unruly_ = true;
    model_.set_unruly(true);
  }
}

// `back` may lead wherever rules lead at all, whatever their guards and events say.
void Reach::leave_all() {
  const auto& states = model_.states();
  std::vector<bool> met(states.size(), false);
  std::vector<std::uint16_t> open;
  const auto visit = [&](std::uint16_t state) {
    if (met[state]) return;
    met[state] = true;
    open.push_back(state);
  };
  visit(0);
  for (std::size_t i = 0; i < open.size(); ++i) {
    const StateFacts& facts = states[open[i]];
    if (facts.initial != kNoIndex) visit(facts.initial);
    visit(facts.parent);
    for (const std::uint16_t region : facts.regions) visit(model_.machine().regions()[region].initial);
    for (const std::uint32_t index : facts.rules) {
      const Rule& rule = model_.rules()[index];
      visit(rule.target);
      for (const std::uint16_t child : states[rule.target].children)
        if (rule.aim == Aim::last) visit(child);
    }
    model_.leave_once(open[i]);
  }
}

// What a state's own rules read, and those of what they may lead to at the same instant without a pulse.
void Reach::find_readers() {
  const auto& states = model_.states();
  const std::size_t inputs = model_.machine().inputs().size();
  readers_.assign(states.size(), std::vector<bool>(inputs, false));
  reads_.resize(states.size());
  std::vector<std::vector<std::uint16_t>> leads(states.size());
  const auto note = [&](std::uint16_t state, const Term& term) {
    each_term(term, [&](const Term& each) {
      if (each.kind != Term::Kind::input) return;
      readers_[state][each.index] = true;
      reads_[state].push_back(each.index);
    });
  };
  const auto enter = [&](const auto& self, std::uint16_t from, std::uint16_t state) -> void {
    leads[from].push_back(state);
    if (states[state].initial != kNoIndex) self(self, from, states[state].initial);
    for (const std::uint16_t region : states[state].regions)
      self(self, from, model_.machine().regions()[region].initial);
  };
  for (const Rule& rule : model_.rules()) {
    if (rule.def == nullptr) continue;
    if (rule.when) note(rule.owner, *rule.when);
    for (const Action& action : rule.actions)
      if (action.value) note(rule.owner, *action.value);
    if (rule.event == Event::pulse) continue;
    if (rule.aim == Aim::back) readers_[rule.owner].assign(inputs, true);  // it may lead to any leaf
    enter(enter, rule.owner, rule.target);
    for (const std::uint16_t child : states[rule.target].children)
      if (rule.aim == Aim::last) enter(enter, rule.owner, child);
    for (std::uint16_t up = rule.target; up != 0; up = states[up].parent) leads[rule.owner].push_back(up);
  }
  own_ = readers_;
  for (bool more = true; more;) {
    more = false;
    for (std::size_t s = 0; s < states.size(); ++s)
      for (const std::uint16_t to : leads[s])
        for (std::size_t i = 0; i < inputs; ++i)
          if (readers_[to][i] && !readers_[s][i]) readers_[s][i] = more = true;
  }
}

std::string Reach::key_of(const Place& place) const {
  std::string out;
  out.reserve(128);
  add_bytes(out, place.moment.config.leaves);
  add_bytes(out, place.moment.config.variables);
  add_bytes(out, place.moment.config.memories);
  add_bytes(out, place.moment.config.ages);
  add_bytes(out, place.stood);
  add_bytes(out, place.moment.fresh);
  add_bytes(out, place.moment.begun);
  add_bytes(out, place.moment.held);
  out += static_cast<char>(place.moment.held.size());
  add_bytes(out, place.moment.early);
  add_bytes(out, place.moment.looped);
  std::vector<std::uint16_t> known;
  for (const Truths* cues : {&place.moment.cues, &place.moment.told}) {
    for (std::uint16_t c = 0; c < cues->size(); ++c)
      if ((*cues)[c] != Truth::no) known.insert(known.end(), {c, static_cast<std::uint16_t>((*cues)[c])});
    known.push_back(kNoIndex);
  }
  for (const Part& part : place.known) known.insert(known.end(), {part.input, part.first, part.last});
  add_bytes(out, known);
  add_bytes(out, std::vector<std::uint32_t>{place.written, place.waits, static_cast<std::uint32_t>(place.first),
                                            static_cast<std::uint32_t>(place.stage), place.moment.timed ? 1U : 0U});
  return out;
}

// Its number, new or not.
std::uint32_t Reach::add(Place place) {
  const auto number = static_cast<std::uint32_t>(next_.size());
  heard_.forget_others(place.moment);
  if (const auto found = known_.find_or_add(key_of(place), place.moment.pulses, number)) return *found;
  next_.emplace_back();
  if (ways_ != nullptr) ways_->places.push_back({place.known});
  if (question_ == nullptr) stops_.push_back({place.moment.config.leaves, place.moment.fresh});
  place.number = number;
  const auto gone =
      static_cast<std::size_t>(std::count(place.moment.pulses.begin(), place.moment.pulses.end(), Truth::no));
  if (open_.size() <= gone) open_.resize(gone + 1);
  open_[gone].push_back(std::move(place));
  return number;
}

std::optional<Reach::Place> Reach::next_open() {
  for (std::vector<Place>& places : open_) {
    if (places.empty()) continue;
    Place out = std::move(places.back());
    places.pop_back();
    return out;
  }
  return std::nullopt;
}

void Reach::know(const std::vector<Part>& known) {
  const std::vector<std::vector<Span>>& cells = model_.cells();
  const auto set = [&](std::uint16_t input, std::size_t first, std::size_t last) {
    inputs_[input] = cells[input].empty() ? Span{} : Span{cells[input][first].low, cells[input][last].high};
    splits_[input] = first < last;
  };
  for (const Part& part : known_now_) set(part.input, 0, std::max<std::size_t>(cells[part.input].size(), 1) - 1);
  for (const Part& part : known) set(part.input, part.first, part.last);
  known_now_ = known;
}

// What may come of a configuration at rest: the game writes, or time brings something.
std::uint32_t Reach::rest_at(const Config& config, std::uint32_t waits) {
  std::string key;
  add_bytes(key, config.leaves);
  add_bytes(key, config.variables);
  add_bytes(key, config.memories);
  add_bytes(key, config.ages);
  add_bytes(key, std::vector<std::uint32_t>{waits});
  const auto [known, fresh] = rests_.try_emplace(std::move(key), static_cast<std::uint32_t>(rests_.size() + 1));
  const std::uint32_t number = known->second;
  if (!fresh) return number;
  if (ways_ != nullptr) ways_->rests.push_back({config.leaves, waits != 0});
  if (question_ != nullptr && question_->kind == ClaimKind::can) rest_configs_.push_back(config);
  const std::size_t inputs = inputs_.size();
  const Truths none(model_.machine().regions().size(), Truth::no);
  know({});
  Truths waits_before(inputs, Truth::yes);
  for (const std::uint16_t pulse : asked_pulses_) waits_before[pulse] = Truth::maybe;
  Model::Looked looked;
  if (!unruly_ && !asked_pulses_.empty())
    waits_before = model_.pending(config, std::move(waits_before), inputs_, std::vector<bool>(inputs, false), looked);
  Place write;
  write.stage = first_stage();
  write.waits = waits;
  for (; write.written < std::uint32_t{1} << asked_pulses_.size(); ++write.written) {
    Place each = write;
    Truths alive(inputs, Truth::maybe);  // from before, if only from this very tick
    for (std::size_t i = 0; i < asked_pulses_.size(); ++i) {
      const std::uint16_t pulse = asked_pulses_[i];
      alive[pulse] = (write.written >> i & 1) != 0 ? Truth::yes : waits_before[pulse];
    }
    each.moment = model_.instant(config, alive, none, inputs_, false);
    begins_at(number, add(std::move(each)));
  }
  Place quiet;
  quiet.stage = Stage::between;
  quiet.waits = waits;
  quiet.rest = number;
  quiet.moment = model_.instant(config, Truths(inputs, Truth::no), none, inputs_, false);
  (void)add(std::move(quiet));
  return number;
}

void Reach::begins_at(std::uint32_t rest, std::uint32_t place) {
  if (ways_ != nullptr) ways_->rests[rest].begins.push_back(place);
}

bool Reach::explore(std::size_t enough) {
  too_many_ = false;
  open_.clear();
  known_ = {};
  next_.clear();
  rests_.clear();
  rest_configs_.clear();
  waiting_.clear();
  waits_on_.clear();
  taken_.clear();
  stops_.clear();
  know({});
  Place first;
  first.moment = model_.begin(inputs_);
  first.stage = first_stage();
  first.waits = question_ == nullptr ? 0 : kFirst;
  if (ways_ != nullptr) ways_->rests.push_back({Indices(first.moment.config.leaves.size(), kNoIndex)});
  for (; first.written < std::uint32_t{1} << asked_pulses_.size(); ++first.written) {
    Place each = first;
    for (std::size_t i = 0; i < asked_pulses_.size(); ++i)
      if ((first.written >> i & 1) != 0) each.moment.pulses[asked_pulses_[i]] = Truth::yes;
    begins_at(0, add(std::move(each)));
  }
  while (const auto place = next_open()) {
    if (++steps_ > enough || next_.size() > kMostPlaces) return false;
    know(place->known);
    if (place->stage == Stage::begins)
      begin(*place);
    else if (place->stage == Stage::rests)
      (void)ask(*place);
    else
      look(*place);
    if (too_many_) return false;
    if (broken_) return true;
  }
  runaway_ = may_run_away(next_, taken_, model_.loose_rounds());
  undoes_ = question_ == nullptr && may_undo_a_press(next_, taken_, stops_);
  return true;
}

void Reach::split_on(const Place& place, const Model::Looked& looked) {
  const Flags active = model_.active(looked.need_in);
  split(place, *model_.rules()[looked.need_of].when,
        View{&inputs_, &looked.need_in.variables, &active, nullptr, nullptr, &model_.traits()});
}

void Reach::look(const Place& place) {
  const Config& config = place.moment.config;
  care_for(config);
  Model::Looked looked = model_.look(place.moment, inputs_, cared_for_, place.stage == Stage::settles);
  if (looked.need) return split_on(place, looked);
  steps_ += looked.steps.size() / kStepsOfOne;
  if (looked.too_many) {
    too_many_ = true;
    return;
  }
  if (place.stage == Stage::between) {
    // Time brings something only where nothing would be taken before.
    if (!looked.rests && !unruly_) return;
    Truths alive = model_.pulses_in_time();
    if (!unruly_) {
      Model::Looked pending;
      alive = model_.pending(config, std::move(alive), inputs_, cared_for_, pending);
      if (pending.need) return split_on(place, pending);
    }
    for (const Truths& looped : model_.loops_of(config)) {
      Place timed;
      timed.known = place.known;
      timed.stage = first_stage();
      timed.waits = place.waits;
      for (Moment& moment : model_.instants(config, alive, looped, inputs_, true)) {
        timed.stood = Values();
        if (question_ != nullptr && moment.config.variables != config.variables) timed.stood = config.variables;
        timed.moment = std::move(moment);
        begins_at(place.rest, add(timed));
      }
    }
    return;
  }
  for (const std::uint16_t leaf : config.leaves)
    for (std::uint16_t up = leaf; up != kNoIndex && up != 0; up = model_.states()[up].parent) model_.enter_once(up);
  if ((looked.rests || unruly_) && !ask(place)) return;
  know(place.known);
  follow(place, looked.steps);
}

// The same moment with more known of an input that the guard reads: by what becomes of the guard, or where that is
// never known, cell by cell.
void Reach::split(const Place& place, const Term& guard, const View& view) {
  std::vector<std::uint16_t> unknown;
  each_term(guard, [&](const Term& term) {
    if (term.kind == Term::Kind::input && cared_for_[term.index]) add_once(unknown, term.index);
  });
  const auto part_of = [&](std::uint16_t input) {
    for (const Part& part : place.known)
      if (part.input == input) return part;
    return Part{input, 0, static_cast<std::uint16_t>(model_.cells()[input].size() - 1)};
  };
  std::vector<Part> parts, cells;
  for (const std::uint16_t input : unknown) {
    std::vector<Part> alike;
    std::optional<Truth> last;
    const Span all = inputs_[input];
    const Part whole = part_of(input);
    for (std::uint16_t c = whole.first; c <= whole.last; ++c) {
      inputs_[input] = model_.cells()[input][c];
      const Truth truth = proof::holds(guard, view);
      if (last == truth)
        alike.back().last = c;
      else
        alike.push_back({input, c, c});
      last = truth;
    }
    inputs_[input] = all;
    if (alike.size() < 2) continue;
    parts = std::move(alike);
    break;
  }
  const Part chosen = part_of(unknown.front());
  for (std::uint16_t c = chosen.first; parts.empty() && c <= chosen.last; ++c) cells.push_back({chosen.input, c, c});
  if (parts.empty()) parts = std::move(cells);
  for (const Part& part : parts) {
    Place more = place;
    std::erase_if(more.known, [&](const Part& each) { return each.input == part.input; });
    more.known.insert(std::upper_bound(more.known.begin(), more.known.end(), part,
                                       [](const Part& a, const Part& b) { return a.input < b.input; }),
                      part);
    const std::uint32_t number = add(std::move(more));
    next_[place.number].push_back({number, false});
  }
}

void Reach::follow(const Place& place, std::vector<Step>& steps) {
  for (Step& step : steps) {
    const bool takes_a_pulse = step.pulse != kNoIndex;
    Place after;
    after.moment = std::move(step.after);
    after.written = place.written;
    after.first = place.first;
    after.waits = place.waits;
    // Where a pulse is taken, not by rules that may follow later: that would be too much.
    const std::vector<std::vector<bool>>& readers = takes_a_pulse ? own_ : readers_;
    const auto is_read = [&](const Part& part) {
      if (asked_inputs_[part.input]) return true;
      for (std::uint16_t up : after.moment.config.leaves)
        for (; up != kNoIndex; up = up == 0 ? kNoIndex : model_.states()[up].parent)
          if (readers[up][part.input]) return true;
      return false;
    };
    std::copy_if(place.known.begin(), place.known.end(), std::back_inserter(after.known), is_read);
    const std::uint32_t number = add(std::move(after));
    if (takes_a_pulse)
      taken_.push_back({step.pulse, place.number, number});
    else
      next_[place.number].push_back({number});
  }
}

}  // namespace mobrin::proof
