// All claims of a machine, on as many threads as there are processors, up to some: each takes its memory.
#include "mobrin/prove/prove.hpp"

#include <algorithm>
#include <atomic>
#include <exception>
#include <functional>
#include <future>
#include <map>
#include <optional>
#include <system_error>
#include <thread>

#include "claims.hpp"
#include "space.hpp"

namespace mobrin {

std::string_view text_of(Answer answer) {
  constexpr std::string_view kTexts[] = {"proved", "refuted", "open", "vacuous"};
  return kTexts[static_cast<std::size_t>(answer)];
}

namespace proof {

std::vector<Term> Claimed::all() const {
  std::vector<Term> out = asked.assumed;
  out.insert(out.end(), {first, second});
  return out;
}

Claimed terms_of(const Model& model, const ClaimDef& claim) {
  const Vocabulary names = model.names_at(0, true);
  Claimed out;
  out.asked.assumed = model.assumed();
  out.first = *bind_term(claim.first.text, names, detail::ExprWords::claim).term;
  if (!claim.second.empty()) out.second = *bind_term(claim.second.text, names, detail::ExprWords::claim).term;
  (reads_before(claim.kind) ? out.asked.before : out.asked.after).push_back(out.first);
  if (!claim.second.empty()) out.asked.after.push_back(out.second);
  return out;
}

}  // namespace proof

namespace {

constexpr std::size_t kMostThreads = 8;

// Claims that hang on the same regions.
struct Group {
  std::size_t first = 0, count = 0;
  std::optional<bool> known{};  // whether there are too many configurations, by who asks; else by its first claim
  std::promise<bool> large{};
  std::shared_future<bool> is_large = large.get_future().share();
};

bool all_can_be_looked_at(proof::Model parts, const proof::Claimed& claimed, const ProofLimits& limits) {
  for (const proof::Term& term : claimed.all()) parts.cut(term);
  proof::Limits of_space;
  of_space.steps = limits.steps;
  return proof::Space(parts, {}, of_space).whole();
}

// Threads that take one task after the other, and end with this.
class Workers {
 public:
  Workers(std::size_t tasks, const std::function<void(std::size_t)>& work) : tasks_(tasks) {
    const std::size_t count = std::min({tasks, kMostThreads, std::size_t{std::thread::hardware_concurrency()}});
    threads_.reserve(count);
    try {
      while (count > 1 && threads_.size() < count)
        threads_.emplace_back([this, &work] {
          for (std::size_t i = next_++; i < tasks_; i = next_++) work(i);
        });
    } catch (const std::system_error&) {  // there are no more: those that there are do it
    }
  }
  Workers(const Workers&) = delete;
  Workers& operator=(const Workers&) = delete;
  ~Workers() {
    next_ = tasks_;
    for (std::thread& each : threads_) each.join();
  }
  [[nodiscard]] bool none() const { return threads_.empty(); }

 private:
  std::size_t tasks_;
  std::atomic<std::size_t> next_{0};
  std::vector<std::thread> threads_;
};

}  // namespace

void prove(const MachineDef& definition, const Machine& machine, const ProofLimits& limits,
           std::optional<bool> too_large, const std::function<void(const ClaimAnswer&)>& tell) {
  const std::vector<ClaimDef>& claims = definition.claims;
  const proof::Model model(definition, machine);
  std::map<std::vector<bool>, Group> groups;  // by what is left out
  std::vector<Group*> group_of;
  std::vector<proof::Claimed> claimed;
  std::vector<proof::Apart> apart;  // variables are left out claim by claim
  for (std::size_t c = 0; c < claims.size(); ++c) {
    claimed.push_back(proof::terms_of(model, claims[c]));
    apart.push_back(model.apart_from(claimed.back().all()));
    const std::vector<bool>& without = apart.back().regions;
    const auto [found, fresh] = groups.try_emplace(without);
    Group& group = found->second;
    if (fresh) group.first = c;
    if (std::find(without.begin(), without.end(), true) == without.end()) group.known = too_large;
    ++group.count;
    group_of.push_back(&group);
  }
  std::vector<std::promise<ClaimAnswer>> answers(claims.size());
  // What is too large without a question is too large with each: that is asked once the first claim of a group was, and
  // the others wait for it.
  const std::function<void(std::size_t)> answer = [&](std::size_t c) {
    Group& group = *group_of[c];
    bool large = false;
    try {
      large = group.known ? *group.known : c != group.first && group.is_large.get();
      proof::Model parts = model;
      parts.leave_out(apart[c]);
      proof::Proved proved = proof::answer_claim(model, parts, claims[c], claimed[c], limits, large);
      if (c == group.first && proved.too_large && group.count > 1)
        large = !all_can_be_looked_at(std::move(parts), claimed[c], limits);
      answers[c].set_value(std::move(proved.answer));
    } catch (...) {
      answers[c].set_exception(std::current_exception());
    }
    if (c == group.first) group.large.set_value(large);
  };
  const Workers workers(claims.size(), answer);
  for (std::size_t c = 0; c < claims.size(); ++c) {
    if (workers.none()) answer(c);
    tell(answers[c].get_future().get());
  }
}

std::vector<ClaimAnswer> prove(const MachineDef& definition, const Machine& machine, const ProofLimits& limits,
                               std::optional<bool> too_large) {
  std::vector<ClaimAnswer> out;
  prove(definition, machine, limits, too_large, [&](const ClaimAnswer& answer) { out.push_back(answer); });
  return out;
}

}  // namespace mobrin
