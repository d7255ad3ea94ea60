#include "mobrin/check/logic.hpp"

#include <algorithm>
#include <tuple>

#include "logic_views.hpp"
#include "mobrin/core/names.hpp"

namespace mobrin {
namespace check {
namespace {

bool is_word(char c) { return detail::is_letter(c) || detail::is_digit(c); }

}  // namespace

void words_of(const std::string& text, std::set<std::string>& out) {
  for (std::size_t i = 0; i < text.size();) {
    std::size_t end = i;
    while (end < text.size() && is_word(text[end])) ++end;
    if (end > i) out.insert(text.substr(i, end - i));
    i = std::max(end, i + 1);
  }
}

Logic::Logic(const MachineDef& definition, const Machine& machine) : def_(definition), machine_(machine) {
  for (std::uint16_t s = 0; s < machine.states().size(); ++s) index_[machine.states()[s].path] = s;
  rules_.resize(machine.states().size());
  for (std::uint32_t t = 0; t < machine.transitions().size(); ++t) rules_[machine.transitions()[t].owner].push_back(t);
  regions_.resize(machine.states().size());
  for (const RegionInfo& region : machine.regions()) regions_[region.owner].push_back(&region);
  go_.assign(machine.transitions().size(), nullptr);
  gather(definition.root, "");
  for (std::uint32_t t = 0; t < go_.size(); ++t)
    if (go_[t] != nullptr && go_[t]->start.kind != StartKind::begin) begin_later_.push_back(t);
}

std::vector<Finding> Logic::run() {
  guards();
  lists();
  rules_to_themselves();
  lost_in_regions();
  reach();
  ways_out();
  cut_off();
  one_way_marks();
  flickers();
  uses();
  words();
  swings();
  choices();
  replaced_marks();
  values();
  idle_accepts();
  std::stable_sort(out_.begin(), out_.end(), [](const Finding& a, const Finding& b) {
    return std::tuple(a.file, a.line, a.column) < std::tuple(b.file, b.line, b.column);
  });
  return std::move(out_);
}

void Logic::gather(const StateDef& state, const std::string& path) {
  const auto found = index_.find(path);
  if (found == index_.end()) return;
  views_.push_back({&state, found->second, path});
  const auto& rules = rules_[found->second];
  for (std::size_t i = 0; i < rules.size() && i < state.go.size(); ++i) go_[rules[i]] = &state.go[i];
  const std::string below = path.empty() ? "" : path + "/";
  for (const StateDef& each : state.states) gather(each, below + each.name.text);
  for (const RegionDef& region : state.regions)
    for (const StateDef& each : region.states) gather(each, below + region.name.text + "/" + each.name.text);
}

bool Logic::within(std::uint16_t state, std::uint16_t of) const {
  for (;; state = info(state).parent) {
    if (state == of) return true;
    if (state == 0) return false;
  }
}

bool Logic::ending(std::uint16_t state) const {
  for (;; state = info(state).parent) {
    const auto& traits = info(state).traits;
    if (info(state).final || std::find(traits.begin(), traits.end(), "dead") != traits.end()) return true;
    if (state == 0) return false;
  }
}

bool Logic::seals_below(std::uint16_t owner) const {
  for (std::uint16_t s = 1; s < machine_.states().size(); ++s)
    if (s != owner && within(s, owner) && (info(s).sealed || info(s).final)) return true;
  return false;
}

std::string Logic::rule_words(std::uint32_t transition) const {
  const TransitionInfo& rule = machine_.transitions()[transition];
  return "\"" + rule.text + "\" to " + rule.to;
}

std::string Logic::line_words(std::uint32_t transition) const {
  const TransitionInfo& rule = machine_.transitions()[transition];
  return rule.place.line > 0 ? "the rule in line " + std::to_string(rule.place.line)
                             : "the rule " + rule_words(transition);
}

void Logic::tell(FindingCode code, Place place, const std::vector<Text>& accept, std::string message,
                 std::string remedy, bool hint, const std::string& name) {
  const std::string word(text_of(code));
  for (const Text& each : accept)
    if (each.text == word) {
      used_.insert(key_of(each));
      return;
    }
  for (const Text& each : def_.accept)
    if (each.text == word || each.text == word + " " + name) {
      used_.insert(key_of(each));
      return;
    }
  Finding& finding = out_.emplace_back();
  finding.code = code;
  finding.hint = hint;
  if (place.file < def_.files.size()) finding.file = def_.files[place.file];
  finding.line = place.line;
  finding.column = place.column;
  finding.message = std::move(message);
  finding.remedy = std::move(remedy);
  finding.subject = name;
}

std::string Logic::key_of(const Text& accept) {
  return std::to_string(accept.place.file) + ":" + std::to_string(accept.place.line) + ":" +
         std::to_string(accept.place.column) + " " + accept.text;
}

void Logic::idle_accepts() {
  const auto check = [&](const std::vector<Text>& accept) {
    for (const Text& each : accept) {
      if (used_.count(key_of(each)) > 0) continue;
      Finding& finding = out_.emplace_back();
      finding.code = FindingCode::idle_accept;
      if (each.place.file < def_.files.size()) finding.file = def_.files[each.place.file];
      finding.line = each.place.line;
      finding.column = each.place.column;
      finding.subject = each.text;
      finding.message = "`accept: " + each.text + "` accepts nothing";
      finding.remedy = "Remove it, or check the code's name: `mobrin check --explain CODE`.";
    }
  };
  check(def_.accept);
  for (const StateView& view : views_) {
    check(view.def->accept);
    for (const GoDef& go : view.def->go) check(go.accept);
  }
  for (const ClipDef& clip : def_.clips) check(clip.accept);
  for (const InputDef& input : def_.inputs) check(input.accept);
  for (const CueDef& cue : def_.cues) check(cue.accept);
  for (const ReachDef& reach : def_.reaches) check(reach.accept);
}

}  // namespace check

std::vector<Finding> logic_findings(const MachineDef& definition, const Machine& machine) {
  return check::Logic(definition, machine).run();
}

std::string_view explain_finding(std::string_view code) {
  const auto known = finding_code(code);
  return known ? meaning_of(*known) : std::string_view();
}

}  // namespace mobrin
