// Findings about what no run does, and about guards by themselves.
#include "findings.hpp"

#include <algorithm>
#include <cmath>
#include <functional>
#include <map>
#include <set>
#include <tuple>

#include "mobrin/check/logic.hpp"
#include "mobrin/core/names.hpp"
#include "solver.hpp"

namespace mobrin {
namespace proof {
namespace {

constexpr std::size_t kMostSolved = 300;  // questions to the solver in a machine
constexpr double kMostShown = 1e9;        // of a range; beyond that it says nothing

std::string place_key(const std::string& file, std::uint32_t line, std::uint32_t column) {
  return file + ":" + std::to_string(line) + ":" + std::to_string(column);
}

// What a rule is told for may be why a hint is there: it leaves at once, so cues are cut off; it never comes to rest,
// so it is taken again and again.
void drop_followers(std::vector<ProvedFinding>& findings) {
  const auto drop = [&](FindingCode cause, FindingCode follower) {
    const auto key = [](const Finding& each) { return place_key(each.file, each.line, each.column); };
    std::set<std::string> places;
    for (const ProvedFinding& each : findings)
      if (each.finding.code == cause) places.insert(key(each.finding));
    std::erase_if(findings, [&](const ProvedFinding& each) {
      return each.finding.code == follower && places.count(key(each.finding)) > 0;
    });
  };
  drop(FindingCode::never_shown, FindingCode::unreached_cue);
  drop(FindingCode::runaway, FindingCode::hardly_meant);
}

// A rule that hides several others is one mistake: told at the first of them, which names the others.
void join_hidden(std::vector<ProvedFinding>& findings) {
  const auto hides = [](const Finding& each) {
    return (each.code == FindingCode::shadowed || each.code == FindingCode::wrong_order) && each.line > 0;
  };
  using Key = std::tuple<std::string, FindingCode, std::string>;
  const auto key = [](const Finding& each) { return Key(each.file, each.code, each.message); };
  std::map<Key, std::set<std::uint32_t>> others;  // lines
  std::erase_if(findings, [&](const ProvedFinding& each) {
    if (!hides(each.finding)) return false;
    const auto [of_it, first] = others.try_emplace(key(each.finding));
    if (!first) of_it->second.insert(each.finding.line);
    return !first;
  });
  for (ProvedFinding& each : findings) {
    Finding& first = each.finding;
    const auto found = hides(first) ? others.find(key(first)) : others.end();
    if (found == others.end() || found->second.empty()) continue;
    const std::set<std::uint32_t>& lines = found->second;
    first.message += lines.size() == 1 ? "; likewise before what is in line " : "; likewise before those in lines ";
    for (auto line = lines.begin(); line != lines.end(); ++line)
      first.message += (line == lines.begin()            ? ""
                        : std::next(line) == lines.end() ? " and "
                                                         : ", ") +
                       std::to_string(*line);
    if (first.code == FindingCode::wrong_order) first.remedy = "Put it below them, so that each has its turn.";
  }
}

}  // namespace

RunFindings::RunFindings(const MachineDef& definition, const Machine& machine, const ProofLimits& limits)
    : def_(definition), limits_(limits), model_(definition, machine) {
  for (Finding& finding : logic_findings(definition, machine)) out_.push_back({std::move(finding), {}});
  for (Finding& finding : claim_findings(definition, machine)) out_.push_back({std::move(finding), {}});
}

LogicReport RunFindings::run() {
  computed();
  timers();
  explored_ = explore(model_, {}, limits_.steps);
  never_taken();
  if (!explored_.whole() || explored_.roughly)
    undecided_ = {FindingCode::unreachable, FindingCode::never_holds, FindingCode::shadowed, FindingCode::never_shown};
  runs();
  for (const Rule* rule : hidden_) hidden(*rule, model_.notes()[rule->index]);
  never_shown();
  idle_parts();
  // An `accept:` that was of use here is not idle.
  std::erase_if(out_, [&](const ProvedFinding& each) {
    return each.finding.code == FindingCode::idle_accept &&
           (speaks_of_undecided(each.finding) ||
            used_.count(place_key(each.finding.file, each.finding.line, each.finding.column)) > 0);
  });
  std::stable_sort(out_.begin(), out_.end(), [](const ProvedFinding& a, const ProvedFinding& b) {
    return std::tie(a.finding.file, a.finding.line, a.finding.column) <
           std::tie(b.finding.file, b.finding.line, b.finding.column);
  });
  drop_followers(out_);
  join_hidden(out_);
  LogicReport report{std::move(out_), std::move(undecided_), {}};
  if (explored_.parts.size() == 1) report.too_large = !explored_.one_by_one;
  return report;
}

// --- telling ---

bool RunFindings::speaks_of_undecided(const Finding& idle) const {
  return std::any_of(undecided_.begin(), undecided_.end(),
                     [&](FindingCode code) { return idle.subject == text_of(code); });
}

std::string RunFindings::file_of(Place place) const {
  return place.file < def_.files.size() ? def_.files[place.file] : "";
}

bool RunFindings::accepted(const std::vector<Text>& accept, std::string_view code) {
  for (const Text& each : accept)
    if (each.text == code) {
      used_.insert(place_key(file_of(each.place), each.place.line, each.place.column));
      return true;
    }
  return false;
}

bool RunFindings::accepted_in(std::uint16_t state, std::string_view code) {
  if (accepted(def_.accept, code)) return true;
  for (std::uint16_t up = state;; up = model_.states()[up].parent) {
    if (const StateDef* def = model_.definition_of(up); def != nullptr && accepted(def->accept, code)) return true;
    if (up == 0) return false;
  }
}

ProvedFinding* RunFindings::tell(FindingCode code, const Rule& rule, std::string message, std::string remedy,
                                 bool hint) {
  const std::string_view word = text_of(code);
  if (accepted(rule.def->accept, word) || accepted_in(rule.owner, word)) return nullptr;
  ProvedFinding& out = out_.emplace_back();
  out.finding = finding_in(file_of(rule.def->place), code, std::move(message), std::move(remedy), rule.def->place.line,
                           rule.def->place.column);
  out.finding.hint = hint;
  return &out;
}

bool RunFindings::told(const Rule& rule) const {
  return std::any_of(out_.begin(), out_.end(), [&](const ProvedFinding& each) {
    return !each.finding.hint && each.finding.file == file_of(rule.def->place) &&
           (each.finding.line == rule.def->place.line ||
            (!rule.def->when.empty() && each.finding.line == rule.def->when.place.line)) &&
           each.finding.line > 0;
  });
}

bool RunFindings::hinted(const Rule& rule) const {
  return std::any_of(out_.begin(), out_.end(), [&](const ProvedFinding& each) {
    return each.finding.code == FindingCode::always_holds && each.finding.file == file_of(rule.def->place) &&
           each.finding.line == rule.def->when.place.line && each.finding.line > 0;
  });
}

std::string RunFindings::line_of(std::uint32_t rule) const {
  const TransitionInfo& info = model_.machine().transitions()[rule];
  return info.place.line > 0 ? "the rule in line " + std::to_string(info.place.line)
                             : "the rule \"" + info.text + "\" to " + info.to;
}
// --- guards by themselves ---

void RunFindings::computed() {
  std::size_t asked = 0;
  Solver solver(model_);
  const auto never = [&](const std::vector<const Term*>& all, const std::vector<const Term*>& none) {
    return ++asked <= kMostSolved && solver.impossible(all, none);
  };
  for (const StateFacts& state : model_.states())
    for (std::size_t b = 0; b < state.rules.size(); ++b) {
      const Rule& below = model_.rules()[state.rules[b]];
      if (below.def == nullptr || !below.when || told(below)) continue;
      const bool odd = computes(*below.when);
      if (odd && never({&*below.when}, {})) {
        tell(FindingCode::never_holds, below, "no values satisfy \"" + below.def->when.text + "\"",
             "Check what is computed against the ranges of the inputs.");
        continue;
      }
      if (odd && !hinted(below) && never({}, {&*below.when}))
        tell(FindingCode::always_holds, below, "\"" + below.def->when.text + "\" is true for all values",
             "Leave the guard out, or check the comparison.", true);
      for (std::size_t a = 0; a < b; ++a) {
        const Rule& above = model_.rules()[state.rules[a]];
        if (above.def == nullptr || !above.when || above.event != Event::none || !above.def->during.empty() ||
            above.def->during_stretch || state.splits_below || (!odd && !computes(*above.when)))
          continue;
        if (!share(*above.when, *below.when) || !never({&*below.when}, {&*above.when})) continue;
        if (never({&*above.when}, {&*below.when}))
          tell(FindingCode::shadowed, below, line_of(above.index) + " decides whenever this one holds",
               "Remove one of them, or tell their guards apart.");
        else
          tell(FindingCode::wrong_order, below,
               line_of(above.index) + " decides whenever this one holds, and in more cases",
               "Swap them, so that both have their turn.");
        break;
      }
    }
}

namespace {

// Without blanks and pairs of brackets around it.
std::string_view bare(std::string_view text) {
  const auto blank = [](char c) { return c == ' ' || c == '\t' || c == '\n'; };
  for (;;) {
    while (!text.empty() && blank(text.front())) text.remove_prefix(1);
    while (!text.empty() && blank(text.back())) text.remove_suffix(1);
    if (text.size() < 2 || text.front() != '(') return text;
    std::size_t depth = 1, at = 1;
    while (at < text.size() && depth > 0) {
      depth += text[at] == '(' ? 1 : 0;
      depth -= text[at] == ')' ? 1 : 0;
      ++at;
    }
    if (at < text.size()) return text;
    text = text.substr(1, text.size() - 2);
  }
}

// Calls `visit` with each term that `and`, `or` and `not` join, and its text.
void each_part(const Term& term, const std::string& whole, std::string_view text,
               const std::function<void(const Term&, std::string_view)>& visit) {
  text = bare(text);
  const auto at = static_cast<std::size_t>(text.data() - whole.data());
  const bool joins = term.kind == Term::Kind::operation && (term.op == detail::Op::and_ || term.op == detail::Op::or_);
  if (term.kind == Term::Kind::operation && term.op == detail::Op::not_)
    return each_part(term.operands[0], whole, text.substr(std::min<std::size_t>(3, text.size())), visit);
  if (!joins || term.operands.size() != 2 || term.offset < at || term.offset >= at + text.size())
    return visit(term, text);
  const std::size_t sign = term.offset - at;
  each_part(term.operands[0], whole, text.substr(0, sign), visit);
  each_part(term.operands[1], whole, text.substr(sign + (term.op == detail::Op::and_ ? 3 : 2)), visit);
}

}  // namespace

void RunFindings::idle_parts() {
  const Values values = model_.nothing_known();
  const std::vector<Span> inputs = model_.any_inputs();
  const View view{&inputs, &values, nullptr, nullptr, nullptr, &model_.traits()};
  for (const Rule& rule : model_.rules()) {
    if (rule.def == nullptr || !rule.when || told(rule) || hinted(rule)) continue;
    const std::string& whole = rule.def->when.text;
    each_part(*rule.when, whole, whole, [&](const Term& part, std::string_view text) {
      if (&part == &*rule.when || part.kind != Term::Kind::operation) return;
      const Truth truth = holds(part, view);
      if (truth == Truth::maybe) return;
      std::string what;  // what it reads can hold
      bool may_change = false;
      each_term(part, [&](const Term& term) {
        const bool input = term.kind == Term::Kind::input;
        if (!input && term.kind != Term::Kind::variable) return;
        const Span span = input ? inputs[term.index] : values[term.index];
        may_change = may_change || !span.point();
        const std::string& name =
            input ? model_.machine().inputs()[term.index].name.text : model_.variables()[term.index].name;
        if (std::max(std::abs(span.low), std::abs(span.high)) > kMostShown) return;
        what += (what.empty() ? " (\"" : ", \"") + name + "\" is " + detail::number_text(span.low) + " to " +
                detail::number_text(span.high);
      });
      if (!may_change) return;
      tell(FindingCode::hardly_meant, rule,
           "in its guard \"" + std::string(text) + "\" is " + (truth == Truth::yes ? "true" : "false") +
               ", whatever comes" + (what.empty() ? "" : what + ")"),
           "Check what it is compared with, or leave it out.", true);
    });
  }
}

// --- what no run does ---

void RunFindings::never_taken() {
  for (const Rule& rule : model_.rules()) {
    if (rule.def == nullptr || (rule.owner != 0 && !model_.entered(rule.owner)) || told(rule)) continue;
    if (!facts_with(rule.owner == 0 ? rule.target : rule.owner).whole) continue;
    const Model::Notes& notes = model_.notes()[rule.index];
    if (notes.taken) continue;
    if (!notes.possible)
      never_possible(rule);
    else if (!notes.its_turn && !notes.deciders.empty())
      hidden_.push_back(&rule);
  }
}

void RunFindings::never_possible(const Rule& rule) {
  if (rule.event == Event::cue) {
    const std::string& cue = rule.def->cue.text;
    // Told at all, but never while its state is active?
    bool heard = false;
    for (std::uint16_t s = 1; s < model_.states().size(); ++s)
      if (model_.entered(s) &&
          (rule.owner == 0 || model_.within(s, rule.owner) || model_.machine().regions().size() > 1))
        for (const std::uint16_t each : model_.states()[s].cues) heard = heard || each == rule.cue;
    if (!heard && !told_by_actions(rule.cue))
      return void(tell(FindingCode::never_holds, rule,
                       "nothing tells the cue \"" + cue + "\" while " +
                           (rule.owner == 0 ? "it runs" : "\"" + path(rule.owner) + "\" is active"),
                       "Put it on a clip that is played there, or move the rule."));
  }
  if (!rule.def->during.empty()) {
    bool open = false;
    for (std::uint16_t s = 0; s < model_.states().size(); ++s)
      if (model_.within(s, rule.owner))
        for (const std::string& window : model_.states()[s].windows) open = open || window == rule.def->during.text;
    if (!open)
      return void(tell(FindingCode::never_holds, rule,
                       "no clip that is played " + in(rule.owner) + " has the window \"" + rule.def->during.text + "\"",
                       "Give it to one of them, or move the rule."));
  }
  // Where its play does not do so at all, compiling has told it.
  bool comes = rule.event != Event::end && rule.event != Event::loop;
  for (std::uint16_t s = 1; s < model_.states().size(); ++s) {
    const StateFacts& state = model_.states()[s];
    if (model_.within(s, rule.owner) && model_.entered(s))
      comes = comes || (rule.event == Event::end ? state.may_end : state.may_loop);
  }
  if (rule.event == Event::end && comes && left_before_its_end(rule)) return;
  if (!comes || !rule.when) return;
  if (rule.owner != 0 && leaves_at_once(rule.owner) != nullptr)
    never_true_[rule.owner].push_back(&rule);
  else
    tell_never_true(rule);
}

// A cue on the way leads on, whichever leaf inside of the rule's owner plays; told where it is one rule.
bool RunFindings::left_before_its_end(const Rule& rule) {
  std::optional<std::uint32_t> by;
  std::uint16_t leaf = kNoIndex;
  for (std::uint16_t s = 1; s < model_.states().size(); ++s) {
    const StateFacts& state = model_.states()[s];
    if (!model_.within(s, rule.owner) || !model_.entered(s) || !state.may_end) continue;
    if (!state.ends_before || (by && *by != *state.ends_before)) return false;
    by = state.ends_before, leaf = s;
  }
  if (!by) return false;
  const Rule& before = model_.rules()[*by];
  tell(FindingCode::never_holds, rule,
       "\"" + path(leaf) + "\" is left at the cue \"" + before.def->cue.text + "\" (line " +
           std::to_string(before.def->place.line) + "), before its play ends",
       "Remove one of the two rules, or let the cue stand at the clip's end, `FRAME.end`.");
  return true;
}

void RunFindings::tell_never_true(const Rule& rule) {
  std::string remedy = "Check what its variables are set to, and where.";
  std::vector<std::uint16_t> together;  // states that it wants at once
  const std::function<void(const Term&)> want = [&](const Term& term) {
    if (term.kind == Term::Kind::state) together.push_back(term.index);
    if (term.kind == Term::Kind::operation && term.op == detail::Op::and_)
      for (const Term& each : term.operands) want(each);
  };
  want(*rule.when);
  for (const std::uint16_t one : together)
    if (!model_.entered(one)) remedy = "No run enters \"" + path(one) + "\": let a rule lead there, or name another.";
  for (const std::uint16_t one : together)
    for (const std::uint16_t other : together)
      if (other > one && model_.states()[one].region == model_.states()[other].region && !model_.within(one, other) &&
          !model_.within(other, one))
        remedy = "Only one of \"" + path(one) + "\" and \"" + path(other) + "\" is active at a time: is it `or`?";
  tell(FindingCode::never_holds, rule, "no run makes \"" + rule.def->when.text + "\" true " + in(rule.owner), remedy);
}

bool RunFindings::told_by_actions(std::uint16_t cue) const {
  const auto in_list = [&](const std::vector<Action>& all) {
    return std::any_of(all.begin(), all.end(), [&](const Action& action) { return action.cue == cue; });
  };
  for (const StateFacts& state : model_.states())
    if (in_list(state.enter) || in_list(state.exit) || in_list(state.each_loop)) return true;
  return std::any_of(model_.rules().begin(), model_.rules().end(),
                     [&](const Rule& rule) { return in_list(rule.actions); });
}

void RunFindings::hidden(const Rule& rule, const Model::Notes& notes) {
  if (accepted(rule.def->accept, text_of(FindingCode::wrong_order))) return;
  // What never comes to rest hides all that waits.
  const auto runs_away = [&](const auto& decider) { return shown_.count({FindingCode::runaway, decider.first}) > 0; };
  if (std::all_of(notes.deciders.begin(), notes.deciders.end(), runs_away)) return;
  std::string who;
  std::size_t count = 0;
  for (const auto& [decider, yes] : notes.deciders)
    if (++count <= 3) who += (who.empty() ? "" : ", or ") + line_of(decider);
  tell(FindingCode::shadowed, rule,
       "in every run " + who + (count > 3 ? ", or another" : "") + " decides before it, whenever it holds",
       "Remove one of them, or tell their guards apart.");
}

const Rule* RunFindings::leaves_at_once(std::uint16_t leaf) const {
  const StateFacts& state = model_.states()[leaf];
  const StateDef* def = model_.definition_of(leaf);
  const bool shows = def != nullptr && state.children.empty() && (state.plays || def->pose);
  if (!shows || !model_.entered(leaf) || model_.rested(leaf)) return nullptr;
  if (const PartFacts facts = facts_with(leaf); !facts.whole || facts.runaway) return nullptr;
  const Rule* out = nullptr;
  for (const std::uint32_t index : state.rules) {
    const Rule& rule = model_.rules()[index];
    if (rule.def == nullptr || !model_.notes()[index].taken) continue;
    if (out == nullptr || (rule.event == Event::none && !rule.when)) out = &rule;
  }
  return out;
}

void RunFindings::never_shown() {
  for (std::uint16_t s = 1; s < model_.states().size(); ++s) {
    const Rule* rule = leaves_at_once(s);
    if (rule == nullptr) continue;
    // It may have been told by what comes of it: a rule below that is hidden, a press that is lost.
    const auto& rules = model_.states()[s].rules;
    const bool known = std::ranges::any_of(rules, [&](std::uint32_t index) {
      return model_.rules()[index].def != nullptr &&
             (told(model_.rules()[index]) || shown_.count({FindingCode::press_lost, index}) > 0);
    });
    const std::vector<const Rule*>& idle = never_true_[s];
    std::string also;
    for (std::size_t i = 0; i < idle.size(); ++i)
      also += (i == 0 ? ", and " : i + 1 < idle.size() ? ", " : " and ") + line_of(idle[i]->index);
    if (!idle.empty()) also += idle.size() == 1 ? " never has its turn" : " never have their turn";
    const ProvedFinding* finding =
        known ? nullptr
              : tell(FindingCode::never_shown, *rule,
                     "it leaves \"" + path(s) +
                         "\" at the instant at which that is entered, so what it plays is never shown" + also,
                     "Let the rule wait (`at: end`, `after:`), or guard it.");
    if (finding == nullptr)
      for (const Rule* each : idle) tell_never_true(*each);
  }
}

}  // namespace proof

LogicReport logic_and_runs(const MachineDef& definition, const Machine& machine, const ProofLimits& limits) {
  return proof::RunFindings(definition, machine, limits).run();
}

}  // namespace mobrin
