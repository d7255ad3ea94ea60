// All claims of a machine, on as many threads as there are processors, up to some: each takes its memory.
#include "mobrin/prove/prove.hpp"

#include <algorithm>
#include <condition_variable>
#include <exception>
#include <map>
#include <mutex>
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

// Calls `work` with each of these, several at a time, and `done` on this thread whenever one is over. What `work`
// throws is thrown here, when all that were begun are over.
template <class Work, class Done>
void do_all(const std::vector<std::size_t>& tasks, const Work& work, const Done& done) {
  std::mutex mutex;
  std::condition_variable changed;
  std::size_t next = 0, over = 0;
  std::exception_ptr thrown;
  const auto take = [&] {
    for (std::unique_lock lock(mutex); next < tasks.size();) {
      const std::size_t task = tasks[next++];
      lock.unlock();
      std::exception_ptr problem;
      try {
        work(task);
      } catch (...) {
        problem = std::current_exception();
      }
      lock.lock();
      if (problem) thrown = problem, next = tasks.size();
      ++over;
      changed.notify_one();
    }
  };
  const std::size_t count = std::min({tasks.size(), kMostThreads, std::size_t{std::thread::hardware_concurrency()}});
  std::vector<std::thread> threads;
  threads.reserve(count);
  try {
    while (count > 1 && threads.size() < count) threads.emplace_back(take);
  } catch (const std::system_error&) {  // there are no more: those that there are do it
  }
  if (threads.empty()) {
    for (const std::size_t task : tasks) work(task), done();
    return;
  }
  for (std::size_t seen = 0; seen < tasks.size();) {
    std::unique_lock lock(mutex);
    changed.wait(lock, [&] { return over > seen || thrown; });
    if (thrown) break;
    seen = over;
    lock.unlock();
    try {
      done();
    } catch (...) {
      lock.lock();
      thrown = std::current_exception();
      next = tasks.size();
      break;
    }
  }
  for (std::thread& each : threads) each.join();
  if (thrown) std::rethrow_exception(thrown);
}

// Answers, each told as soon as all before it are known.
class Answers {
 public:
  Answers(std::size_t count, const std::function<void(const ClaimAnswer&)>& tell) : all_(count), tell_(tell) {}
  void set(std::size_t claim, ClaimAnswer answer) {
    const std::lock_guard lock(mutex_);
    all_[claim] = std::move(answer);
  }
  void tell() {
    for (; told_ < all_.size(); ++told_) {
      {
        const std::lock_guard lock(mutex_);
        if (!all_[told_]) return;
      }
      tell_(*all_[told_]);
    }
  }

 private:
  std::mutex mutex_;
  std::vector<std::optional<ClaimAnswer>> all_;
  std::size_t told_ = 0;
  const std::function<void(const ClaimAnswer&)>& tell_;
};

// Claims that hang on the same regions.
struct Group {
  proof::Apart apart;
  std::vector<std::size_t> claims{};
  std::optional<bool> large{};
};

bool all_can_be_looked_at(const proof::Model& model, const Group& group, const ClaimDef& first,
                          const ProofLimits& limits) {
  proof::Model parts = model;
  parts.leave_out(group.apart);
  for (const proof::Term& term : proof::terms_of(model, first).all()) parts.cut(term);
  proof::Limits of_space;
  of_space.steps = limits.steps;
  return proof::Space(parts, {}, of_space).whole();
}

}  // namespace

void prove(const MachineDef& definition, const Machine& machine, const ProofLimits& limits,
           std::optional<bool> too_large, const std::function<void(const ClaimAnswer&)>& tell) {
  const std::vector<ClaimDef>& claims = definition.claims;
  const proof::Model model(definition, machine);
  std::map<std::vector<bool>, Group> groups;
  std::vector<Group*> group_of;
  for (std::size_t c = 0; c < claims.size(); ++c) {
    proof::Apart apart = model.apart_from(proof::terms_of(model, claims[c]).all());
    const std::vector<bool> without = apart.regions;
    Group& group = groups.try_emplace(without, Group{std::move(apart)}).first->second;
    group.claims.push_back(c);
    group_of.push_back(&group);
    if (std::find(without.begin(), without.end(), true) == without.end()) group.large = too_large;
  }
  Answers answers(claims.size(), tell);
  // What is too large without a question is too large with each: that is asked once the first claim of a group was.
  std::vector<std::size_t> firsts, others;
  for (const auto& [without, group] : groups)
    for (const std::size_t claim : group.claims)
      (!group.large && claim == group.claims.front() ? firsts : others).push_back(claim);
  for (auto* tasks : {&firsts, &others}) {
    std::sort(tasks->begin(), tasks->end());
    const bool first = tasks == &firsts;
    do_all(
        *tasks,
        [&](std::size_t c) {
          Group& group = *group_of[c];
          proof::Proved proved =
              proof::answer_claim(definition, machine, claims[c], limits, group.large.value_or(false));
          answers.set(c, std::move(proved.answer));
          if (first && proved.too_large && group.claims.size() > 1)
            group.large = !all_can_be_looked_at(model, group, claims[c], limits);
        },
        [&] { answers.tell(); });
  }
}

std::vector<ClaimAnswer> prove(const MachineDef& definition, const Machine& machine, const ProofLimits& limits,
                               std::optional<bool> too_large) {
  std::vector<ClaimAnswer> out;
  prove(definition, machine, limits, too_large, [&](const ClaimAnswer& answer) { out.push_back(answer); });
  return out;
}

}  // namespace mobrin
