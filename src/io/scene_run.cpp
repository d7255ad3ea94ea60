// Running scenes: on to the next cut; where somebody hits or enters something before it, back to the snapshot and on to
// just that instant.
#include <algorithm>
#include <cmath>

#include "mobrin/io/scene.hpp"

namespace mobrin {

struct SceneRun::Saved {
  std::vector<std::vector<std::byte>> blocks;
  std::vector<std::string_view> last_damage;
  Contacts contacts;
  Zones zones;
};

SceneRun::SceneRun(const Scene& scene)
    : scene_(scene),
      next_step_(scene.actors.size()),
      last_damage_(scene.actors.size()),
      contacts_(tags_),
      zones_(tags_) {
  instances_.reserve(scene.actors.size());
  for (const SceneActor& actor : scene.actors) instances_.emplace_back(*actor.machine);
}

Placement SceneRun::placement(std::size_t actor, Ticks at) const {
  Placement out = scene_.actors[actor].start;
  for (const SceneMove& move : scene_.actors[actor].moves) {
    if (move.at > at) break;
    if (move.faces_left) out.faces_left = *move.faces_left;
    const Ticks gone = at - move.at;
    const double part =
        gone >= move.lasts ? 1 : static_cast<double>(gone.count) / static_cast<double>(move.lasts.count);
    out.at.x += move.by.x * part;
    out.at.y += move.by.y * part;
  }
  return out;
}

bool SceneRun::alive(std::size_t actor) const {
  const Instance& instance = instances_[actor];
  if (instance.done()) return false;
  const auto dead = instance.machine().trait("dead");
  return !dead || !instance.is(*dead);
}

// The next instant at which something is written or a move begins or ends.
Ticks SceneRun::next_cut(Ticks until) const {
  Ticks next = until;
  for (std::size_t i = 0; i < scene_.actors.size(); ++i) {
    const SceneActor& actor = scene_.actors[i];
    if (next_step_[i] < actor.tape.steps.size()) next = std::min(next, actor.tape.steps[next_step_[i]].at);
    for (const SceneMove& move : actor.moves)
      for (const Ticks border : {move.at, move.at + move.lasts})
        if (border > now_) next = std::min(next, border);
  }
  return std::max(next, now_);
}

void SceneRun::write_steps() {
  for (std::size_t i = 0; i < scene_.actors.size(); ++i) {
    const auto& steps = scene_.actors[i].tape.steps;
    for (; next_step_[i] < steps.size() && steps[next_step_[i]].at <= now_; ++next_step_[i])
      write_step(instances_[i], steps[next_step_[i]]);
  }
}

void SceneRun::cover(Ticks to, std::vector<SceneRecord>& records) {
  records.clear();
  life_changes_ = to;
  // What was written takes effect first: who is alive shows only then.
  cover_part(now_, records);
  zones_.begin(now_, to);
  cover_part(to, records);
  for (std::uint32_t i = 0; i < scene_.actors.size(); ++i) {
    const Placement from = placement(i, now_), there = placement(i, to);
    zones_.add_owner(i, instances_[i], from, there);
    if (!gone_[i]) zones_.add_visitor({i, tags_.bits(scene_.actors[i].tags), from.at, there.at});
  }
  std::stable_sort(records.begin(), records.end(),
                   [](const SceneRecord& a, const SceneRecord& b) { return a.at < b.at; });
}

void SceneRun::cover_part(Ticks to, std::vector<SceneRecord>& records) {
  contacts_.begin(now_, to);
  gone_.assign(scene_.actors.size(), false);
  for (std::uint32_t i = 0; i < scene_.actors.size(); ++i) {
    Participant who;
    who.id = i;
    who.tags = tags_.bits(scene_.actors[i].tags);
    who.alive = alive(i);
    gone_[i] = instances_[i].done();
    who.from = placement(i, now_);
    who.to = placement(i, to);
    who.to.faces_left = who.from.faces_left;
    contacts_.advance(
        who, instances_[i],
        [&](const Cue& cue) {
          SceneRecord record;
          record.at = cue.at;
          record.actor = i;
          record.cue = cue;
          records.push_back(record);
          if (to > now_ && (alive(i) != who.alive || instances_[i].done() != gone_[i]))
            life_changes_ = std::min(life_changes_, cue.at);
          if (cue.what == Told::enter) last_damage_[i] = {};
          if (cue.what == Told::cue && cue.kind() == "damage") last_damage_[i] = cue.name();
        },
        kAllRecords);
  }
}

// What a hit does is written at its instant and takes effect there.
void SceneRun::react(std::uint32_t actor, std::string_view box) {
  Instance& instance = instances_[actor];
  for (const HitRule& rule : scene_.actors[actor].rules) {
    if (!rule.box.empty() && rule.box.text != box) continue;
    for (const Text& pulse : rule.pulses) (void)instance.pulse_by_name(pulse.text);
    for (const auto& [name, value] : rule.add)
      for (std::uint16_t i = 0; i < instance.machine().inputs().size(); ++i) {
        if (instance.machine().inputs()[i].name.text != name.text) continue;
        const FieldValue now = instance.input_value(i);
        if (const auto* whole = std::get_if<std::int64_t>(&now))
          (void)instance.set_by_name(name.text, FieldValue(*whole + static_cast<std::int64_t>(std::llround(std::clamp(
                                                                        value, -2147483647.0, 2147483647.0)))));
        else if (const auto* number = std::get_if<double>(&now))
          (void)instance.set_by_name(name.text, FieldValue(*number + value));
      }
  }
}

void SceneRun::work_off(Ticks at, std::vector<SceneRecord>& records) {
  contacts_.resolve([&](const Hit& hit) {
    if (hit.at > at) return HitAnswer::misses;
    SceneRecord record;
    record.what = SceneRecord::What::hit;
    record.at = hit.at;
    record.actor = hit.by;
    record.other = hit.on;
    record.where = hit.where;
    record.box = hit.hit_box->name.text;
    record.hurt = hit.hurt_box->name.text;
    record.hit_cue = last_damage_[hit.by];
    records.push_back(record);
    react(hit.on, record.box);
    return HitAnswer::lives;  // whether it dies of it, its machine says at this instant
  });
  for (const ZoneEvent& event : zones_.resolve(at)) {
    SceneRecord record;
    record.what = SceneRecord::What::zone;
    record.at = event.at;
    record.actor = event.owner;
    record.other = event.visitor;
    record.zone = scene_.actors[event.owner].machine->zones()[event.zone].def.name.text;
    record.entered = event.entered;
    records.push_back(record);
  }
}

void SceneRun::run(Ticks until, const std::function<void(const SceneRecord&)>& told) {
  std::vector<SceneRecord> records;
  int idle = 0;
  for (bool last = false; !last;) {
    write_steps();
    const Ticks cut = next_cut(until);
    Saved saved{{}, last_damage_, contacts_, zones_};
    for (const Instance& instance : instances_) {
      const auto block = instance.block();
      saved.blocks.emplace_back(block.begin(), block.end());
    }
    cover(cut, records);
    Ticks first = cut, zone = cut;
    const bool hits = contacts_.first_instant(first);
    const bool visits = zones_.first_instant(zone);
    if (visits && (!hits || zone < first)) first = zone;
    first = std::min(first, life_changes_);
    if (first < cut) {
      contacts_ = saved.contacts;
      zones_ = saved.zones;
      last_damage_ = saved.last_damage;
      for (std::size_t i = 0; i < instances_.size(); ++i) instances_[i].restore(saved.blocks[i]);
      cover(first, records);
    }
    idle = first > now_ ? 0 : idle + 1;
    if (hits || visits) work_off(first, records);
    now_ = first;
    for (const SceneRecord& record : records) told(record);
    last = now_ >= until && !((hits || visits) && idle < 64);
    if (idle >= 64 && !last) now_ = Ticks(now_.count + 1);  // hits and reactions that never come to rest: go on
  }
}

}  // namespace mobrin
