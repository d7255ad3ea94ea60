// Running scenes: parts in which nobody writes or turns, each of them one step of an arena.
#include <algorithm>
#include <cmath>

#include "mobrin/io/scene.hpp"

namespace mobrin {

// Turns what happens in the arena into records, and lets hits do what the scene's rules say.
class SceneRun::Events : public ArenaGame {
 public:
  Events(SceneRun& run, const std::function<void(const SceneRecord&)>& told) : run_(run), told_(told) {}

  void told(std::uint32_t id, const Cue& cue) override {
    std::string_view& damage = run_.last_damage_[id];
    if (cue.what == Told::enter) damage = {};
    if (cue.what == Told::cue && cue.kind() == "damage") damage = cue.name();
    SceneRecord record;
    record.at = cue.at;
    record.actor = id;
    record.cue = cue;
    told_(record);
  }

  HitAnswer hit(const Hit& hit) override {
    SceneRecord record;
    record.what = SceneRecord::What::hit;
    record.at = hit.at;
    record.actor = hit.by;
    record.other = hit.on;
    record.where = hit.where;
    record.box = hit.hit_box->name.text;
    record.hurt = hit.hurt_box->name.text;
    record.hit_cue = run_.last_damage_[hit.by];
    run_.react(hit.on, record.box);
    told_(record);
    return HitAnswer::lives;  // whether it dies of it, its machine says at this instant
  }

  void zone(const ZoneEvent& event) override {
    SceneRecord record;
    record.what = SceneRecord::What::zone;
    record.at = event.at;
    record.actor = event.owner;
    record.other = event.visitor;
    record.zone = run_.scene_.actors[event.owner].machine->zones()[event.zone].def.name.text;
    record.entered = event.entered;
    told_(record);
  }

 private:
  SceneRun& run_;
  const std::function<void(const SceneRecord&)>& told_;
};

SceneRun::SceneRun(const Scene& scene)
    : scene_(scene), next_step_(scene.actors.size()), last_damage_(scene.actors.size()), arena_(tags_) {
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
  const auto traits = instance.machine().traits();
  const auto dead = std::find(traits.begin(), traits.end(), "dead");
  return dead == traits.end() ||
         !instance.is({instance.machine().serial(), static_cast<std::uint16_t>(dead - traits.begin())});
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

// Those of now, up to one before which the others take effect: that is written after a step of no time. Whether there
// is one.
bool SceneRun::write_steps() {
  bool waits = false;
  for (std::size_t i = 0; i < scene_.actors.size(); ++i) {
    const auto& steps = scene_.actors[i].tape.steps;
    for (bool written = false; next_step_[i] < steps.size() && steps[next_step_[i]].at <= now_; written = true) {
      const TapeStep& step = steps[next_step_[i]];
      if ((written && takes_turn(step)) || (!begun_ && step.settled)) {
        waits = true;
        break;
      }
      write_step(instances_[i], steps[next_step_[i]++]);
    }
  }
  return waits;
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

void SceneRun::run(Ticks until, const std::function<void(const SceneRecord&)>& told) {
  Events events(*this, told);
  for (bool more = true; more || now_ < until;) {
    const bool waits = write_steps();
    const Ticks cut = next_cut(until);
    arena_.begin(now_, cut);
    for (std::uint32_t i = 0; i < scene_.actors.size(); ++i) {
      Participant who{i, tags_.bits(scene_.actors[i].tags), true, placement(i, now_), placement(i, cut)};
      who.to.faces_left = who.from.faces_left;
      (void)arena_.add(who, instances_[i]);
    }
    more = arena_.run(events) || waits;
    begun_ = true;
    now_ = cut;
  }
}

}  // namespace mobrin
