// Whole steps: on to the end; where something happens before it that changes what others do, back to the snapshot and
// on to just that instant.
#include "mobrin/contact/arena.hpp"

#include <algorithm>
#include <cstring>

namespace mobrin {
namespace {

constexpr int kMostRestless = 64;
constexpr Ticks kPause = milliseconds(1);  // after so many

}  // namespace

void Arena::recall(const Memory& memory) {
  kept_ = memory;
  kept_.contacts.tags_ = tags_;
  kept_.zones.tags_ = tags_;
}

void Arena::begin(Ticks from, Ticks to) {
  from_ = now_ = from;
  ends_ = false;
  to_ = to;
  kept_.contacts.begin(from, to);
  fighters_.clear();
  by_id_.clear();
  plain_.clear();
  records_.clear();
  std::erase_if(hosts_, [](const Host& host) { return host.crowd == nullptr; });  // idle in the last step
  for (Host& host : hosts_) {
    host.crowd = nullptr;
    host.used = 0;
  }
}

std::size_t Arena::find(std::uint32_t id) const {
  const auto at = std::lower_bound(by_id_.begin(), by_id_.end(), std::pair(id, std::uint32_t{0}));
  return at != by_id_.end() && at->first == id ? at->second : fighters_.size();
}

bool Arena::join(Fighter fighter) {
  const std::pair key(fighter.who.id, static_cast<std::uint32_t>(fighters_.size()));
  const auto at = std::lower_bound(by_id_.begin(), by_id_.end(), std::pair(key.first, std::uint32_t{0}));
  if (at != by_id_.end() && at->first == key.first) return false;
  by_id_.insert(at, key);
  if (fighter.instance != nullptr) {
    const auto traits = fighter.instance->machine().traits();
    const auto dead = std::find(traits.begin(), traits.end(), "dead");
    if (dead != traits.end()) fighter.dead = static_cast<std::uint16_t>(dead - traits.begin());
  }
  fighters_.push_back(fighter);
  return true;
}

bool Arena::add(const Participant& who, Instance& instance) {
  if (instance.now() < from_) (void)instance.begin_at(from_);  // a new one has not lived till now
  if (instance.now() > from_) return false;
  Fighter fighter;
  fighter.who = who;
  fighter.instance = &instance;
  return join(fighter) && is_sound(who.from) && is_sound(who.to);
}

bool Arena::add(const Participant& who, Crowd& crowd, Member member) {
  if (crowd.now() != from_ || !crowd.has(member)) return false;
  const auto serial = crowd.machine().serial();
  auto host = std::find_if(hosts_.begin(), hosts_.end(), [&](const Host& each) { return each.crowd == &crowd; });
  if (host == hosts_.end())
    host = std::find_if(hosts_.begin(), hosts_.end(), [&](const Host& each) {
      return each.crowd == nullptr && each.stand_ins.front().machine().serial() == serial;
    });
  if (host == hosts_.end()) hosts_.emplace_back(), host = hosts_.end() - 1;
  if (host->used == host->stand_ins.size()) host->stand_ins.emplace_back(crowd.machine(), InstanceOptions{0});
  host->crowd = &crowd;
  Fighter fighter;
  fighter.who = who;
  fighter.instance = &host->stand_ins[host->used];
  fighter.crowd = static_cast<std::uint32_t>(host - hosts_.begin());
  fighter.member = member;
  if (!join(fighter)) return false;
  ++host->used;
  return is_sound(who.from) && is_sound(who.to);
}

bool Arena::add(const Participant& who, std::span<const PlainBox> boxes) {
  // What cannot be is refused now, and not when the step runs.
  if (!kept_.contacts.add(who, boxes)) return false;
  Fighter fighter;
  fighter.who = who;
  fighter.crowd = static_cast<std::uint32_t>(plain_.size());
  fighter.boxes = static_cast<std::uint32_t>(boxes.size());
  if (!join(fighter)) return false;
  plain_.insert(plain_.end(), boxes.begin(), boxes.end());
  return true;
}

Instance* Arena::instance(std::uint32_t id) {
  const std::size_t index = find(id);
  return index < fighters_.size() ? fighters_[index].instance : nullptr;
}

Placement Arena::placement(std::uint32_t id, Ticks at) const { return placed(fighters_[find(id)], at); }

Placement Arena::placed(const Fighter& fighter, Ticks at) const {
  Placement out = fighter.who.to;
  if (at >= to_) return out;
  const Vec2 first = fighter.who.from.at, last = fighter.who.to.at;
  const double part = static_cast<double>((at - from_).count) / static_cast<double>((to_ - from_).count);
  out.at = {first.x + (last.x - first.x) * part, first.y + (last.y - first.y) * part};
  return out;
}

bool Arena::alive(const Fighter& fighter) const {
  if (fighter.out || !fighter.who.alive) return false;
  if (fighter.instance == nullptr) return true;
  if (fighter.instance->done()) return false;
  return fighter.dead == kNoIndex || !fighter.instance->is({fighter.instance->machine().serial(), fighter.dead});
}

void Arena::lend() {
  for (Fighter& fighter : fighters_)
    if (fighter.member.generation != 0) hosts_[fighter.crowd].crowd->lend(fighter.member, *fighter.instance);
}

void Arena::give_back(ArenaGame& game) {
  for (Host& host : hosts_) {
    if (host.crowd == nullptr) continue;
    Advanced step{{}, now_ - from_};
    do {
      asides_.clear();
      step = host.crowd->advance(step.left, asides_);
      for (const CrowdCue& cue : asides_) game.aside(*host.crowd, cue);
    } while (!step.complete() && !asides_.empty());
  }
  for (Fighter& fighter : fighters_)
    if (fighter.member.generation != 0) hosts_[fighter.crowd].crowd->take_back(fighter.member, *fighter.instance);
}

void Arena::save() {
  kept_.contacts.go_on(now_, now_);  // what was found is over
  saved_ = kept_;
  std::size_t size = 0;
  for (const Fighter& fighter : fighters_)
    if (fighter.instance != nullptr) size += fighter.instance->block().size();
  blocks_.resize(size);
  std::byte* to = blocks_.data();
  for (Fighter& fighter : fighters_) {
    if (fighter.instance == nullptr) continue;
    fighter.forced = fighter.instance->forced();
    const auto block = fighter.instance->block();
    std::memcpy(to, block.data(), block.size());
    to += block.size();
  }
}

void Arena::go_back() {
  kept_ = saved_;
  const std::byte* from = blocks_.data();
  for (const Fighter& fighter : fighters_) {
    if (fighter.instance == nullptr) continue;
    Instance& instance = *fighter.instance;
    // Nothing was written since: who listens to writes has nothing to take back.
    const WriteHook hook = instance.write_hook();
    instance.set_write_hook({});
    const std::size_t size = instance.block().size();
    (void)instance.restore({from, size});
    if (fighter.forced) (void)instance.force(*fighter.forced);
    instance.set_write_hook(hook);
    from += size;
  }
}

void Arena::cover(Ticks to, ArenaGame& game) {
  records_.clear();
  stop_ = to + Ticks(1);
  // What was written takes effect first: who is alive shows only then.
  cover_part(now_, game);
  cover_part(to, game);
  // Always with the whole way that is left: who leaves a border that he stands on is still on it at that instant.
  kept_.zones.begin(now_, to_);
  for (const Fighter& fighter : fighters_) {
    const Placement first = placed(fighter, now_), last = placed(fighter, to_);
    if (fighter.instance != nullptr) (void)kept_.zones.add_owner(fighter.who.id, *fighter.instance, first, last);
    if (!fighter.was_gone) (void)kept_.zones.add_visitor({fighter.who.id, fighter.who.tags, first.at, last.at});
  }
  std::sort(records_.begin(), records_.end(), [](const Record& a, const Record& b) {
    if (a.cue.at != b.cue.at) return a.cue.at < b.cue.at;
    return a.order < b.order;
  });
}

void Arena::cover_part(Ticks to, ArenaGame& game) {
  kept_.contacts.go_on(now_, to);
  for (std::uint32_t i = 0; i < fighters_.size(); ++i) {
    Fighter& fighter = fighters_[i];
    fighter.was_alive = alive(fighter);
    Participant who = fighter.who;
    who.alive = fighter.was_alive;
    who.from = placed(fighter, now_);
    who.to = placed(fighter, to);
    if (fighter.instance == nullptr) {
      (void)kept_.contacts.add(who, std::span(plain_).subspan(fighter.crowd, fighter.boxes));
      continue;
    }
    fighter.was_gone = fighter.instance->done();
    const auto hear = [&](const Cue& cue) {
      records_.push_back({i, static_cast<std::uint32_t>(records_.size()), cue});
      const bool turns =
          to > now_ && (alive(fighter) != fighter.was_alive || fighter.instance->done() != fighter.was_gone);
      if (turns || game.acts_at(fighter.who.id, cue)) stop_ = std::min(stop_, cue.at);
    };
    (void)kept_.contacts.advance(who, *fighter.instance, hear, kAllRecords);
  }
}

// Everything at `at`, the end of a part that has begun at `begun`; whether there was something.
bool Arena::answer(Ticks begun, Ticks at, ArenaGame& game) {
  bool any = false;
  kept_.contacts.resolve(at, [&](const Hit& hit) {
    const HitAnswer said = game.hit(hit);
    any = any || said != HitAnswer::misses;
    if (said == HitAnswer::dies) fighters_[find(hit.on)].out = true;
    return said == HitAnswer::dies ? HitAnswer::lives : said;  // who strikes at this very instant does so all the same
  });
  game.settled(at);
  // What was answered takes effect before anybody enters or leaves, as where a step ends here.
  for (const ZoneEvent& event : kept_.zones.resolve(any || at >= stop_ ? begun : at)) {
    game.zone(event);
    any = true;
  }
  return any;
}

bool Arena::run(ArenaGame& game) { return run(game, to_); }
bool Arena::run_begin(ArenaGame& game) { return run(game, from_); }

// What happens up to `until`, one end of the step.
bool Arena::run(ArenaGame& game, Ticks until) {
  lend();
  bool answered = false;
  do {
    if (kept_.restless >= kMostRestless && now_ < to_) {
      if (until <= now_) break;  // who only looks at the begin does not make time go on
      now_ = std::min(to_, now_ + kPause), kept_.restless = 0;
    }
    save();
    cover(to_, game);
    Ticks first = to_, zone = to_;
    (void)kept_.contacts.first_instant(first);
    if (kept_.zones.first_instant(zone)) first = std::min(first, zone);
    first = std::min(first, stop_);
    if (first > until) {
      go_back();
      break;
    }
    if (first < to_) {
      go_back();
      cover(first, game);
    }
    kept_.restless = first > now_ ? 0 : kept_.restless + 1;
    const Ticks begun = std::exchange(now_, first);
    for (const Record& record : records_) game.told(fighters_[record.fighter].who.id, record.cue);
    answered = answer(begun, first, game);
  } while (now_ < to_ && !ends_);
  give_back(game);
  return answered && kept_.restless < kMostRestless;
}

}  // namespace mobrin
