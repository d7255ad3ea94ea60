// Running scenes: parts in which nobody writes, turns or begins to move another way, each of them one step of an arena.
#include <algorithm>
#include <cmath>

#include "mobrin/io/scene.hpp"

namespace mobrin {
namespace {

constexpr Ticks kCell(kTicksPerSecond / 240);
constexpr std::size_t kMostOnStage = 1000;

double seconds_of(Ticks time) { return time.to_seconds(); }
Ticks next_cell(Ticks now) { return Ticks((now.count / kCell.count + 1) * kCell.count); }

const ReachDef* damage_reach(const Cue& cue, const Machine& machine) {
  const bool strikes = cue.what == Told::cue && cue.edge != Edge::end && cue.kind() == "damage";
  return strikes ? reach_of(cue, machine) : nullptr;
}

bool is_kind(const Cue& cue, std::string_view kind) {
  return cue.what == Told::cue && cue.edge != Edge::end && cue.kind() == kind;
}

}  // namespace

// Turns what happens in the arena into records, and does what cues and the scene's rules say.
class SceneRun::Events : public ArenaGame {
 public:
  Events(SceneRun& run, const std::function<void(const SceneRecord&)>& told) : run_(run), told_(told) {}

  bool acts_at(std::uint32_t id, const Cue& cue) override {
    const bool leaves = cue.what == Told::done && id >= run_.scene_.actors.size();
    return leaves || is_kind(cue, "impulse") || is_kind(cue, "spawn") || damage_reach(cue, machine(id)) != nullptr;
  }

  void told(std::uint32_t id, const Cue& cue) override {
    std::string_view& damage = run_.last_damage_[id];
    const bool strikes = is_kind(cue, "damage");
    if (cue.what == Told::enter) damage = {};
    if (strikes) damage = cue.name();
    if (cue.what == Told::enter || strikes)  // another swing
      std::erase_if(run_.struck_, [&](const auto& each) { return each.first == id; });
    SceneRecord record;
    record.at = cue.at;
    record.actor = id;
    record.cue = cue;
    told_(record);
    if (cue.what == Told::done && id >= run_.scene_.actors.size()) run_.arena_.end_here();
    if (damage_reach(cue, machine(id)) != nullptr) reaching_.emplace_back(id, cue);
    if (is_kind(cue, "impulse")) run_.push(id, cue), run_.arena_.end_here();
    if (is_kind(cue, "spawn")) run_.spawn(id, cue, told_), run_.arena_.end_here();
  }

  HitAnswer hit(const Hit& hit) override {
    const std::pair pair(hit.by, hit.on);
    const bool struck = std::find(run_.struck_.begin(), run_.struck_.end(), pair) != run_.struck_.end();
    if (struck && hit.hit_box->every.count <= 0) return HitAnswer::misses;  // through its reach already
    run_.struck_.push_back(pair);
    SceneRecord record;
    record.what = SceneRecord::What::hit;
    record.at = hit.at;
    record.actor = hit.by;
    record.other = hit.on;
    record.where = hit.where;
    record.box = hit.hit_box->name.text;
    record.hurt = hit.hurt_box->name.text;
    record.hit_cue = run_.last_damage_[hit.by];
    told_(record);
    run_.react(hit.on, {record.box, record.hit_cue});
    return HitAnswer::lives;  // whether it dies of it, its machine says at this instant
  }

  void settled(Ticks at) override {
    for (const auto& [id, cue] : reaching_) reach(id, cue, at);
    reaching_.clear();
  }

  void zone(const ZoneEvent& event) override {
    SceneRecord record;
    record.what = SceneRecord::What::zone;
    record.at = event.at;
    record.actor = event.owner;
    record.other = event.visitor;
    record.zone = machine(event.owner).zones()[event.zone].def.name.text;
    record.entered = event.entered;
    told_(record);
  }

 private:
  [[nodiscard]] const Machine& machine(std::uint32_t id) const { return *run_.actors_[id]->machine; }

  void reach(std::uint32_t id, const Cue& cue, Ticks at) {
    if (!run_.alive(id)) return;
    const ReachDef* reach = damage_reach(cue, machine(id));
    std::vector<Candidate> all;
    std::vector<ActiveBox> shown(64);
    for (std::uint32_t i = 0; i < run_.actors_.size(); ++i) {
      if (run_.bodies_[i].gone) continue;
      Candidate one{i, run_.placement(i, at).at, 0, run_.tags_.bits(run_.actors_[i]->tags), run_.alive(i)};
      // A body is the circle around its first box that can be hit.
      const std::size_t count = std::min(shown.size(), boxes(run_.instances_[i], run_.placement(i, at), shown));
      for (std::size_t b = 0; b < count; ++b) {
        if (shown[b].box->role.text != "hurt") continue;
        one.at = shown[b].shape.middle;
        one.radius = std::max({shown[b].shape.radius, shown[b].shape.half_width, shown[b].shape.half_height});
        break;
      }
      all.push_back(one);
    }
    std::vector<Target> found;
    targets(*reach, run_.placement(id, at), machine(id).unit(), id, all, run_.tags_, found);
    for (const Target& target : found) {
      const std::pair pair(id, target.id);
      if (std::find(run_.struck_.begin(), run_.struck_.end(), pair) != run_.struck_.end()) continue;
      run_.struck_.push_back(pair);
      SceneRecord record;
      record.what = SceneRecord::What::hit;
      record.at = at;
      record.actor = id;
      record.other = target.id;
      record.where = run_.placement(target.id, at).at;
      record.box = reach->name.text;
      record.hit_cue = cue.name();
      told_(record);
      run_.react(target.id, {cue.name(), record.box});
    }
  }

  SceneRun& run_;
  const std::function<void(const SceneRecord&)>& told_;
  std::vector<std::pair<std::uint32_t, Cue>> reaching_;  // of this instant
};

SceneRun::SceneRun(const Scene& scene)
    : scene_(scene),
      spawned_of_(scene.spawns.size()),
      bodies_(scene.actors.size()),
      next_step_(scene.actors.size()),
      last_damage_(scene.actors.size()),
      arena_(tags_) {
  for (const SceneActor& actor : scene.actors) {
    actors_.push_back(&actor);
    instances_.emplace_back(*actor.machine);
    name_tags(actor.tags, *actor.machine);
  }
  for (const SceneSpawn& spawn : scene.spawns)
    if (spawn.machine) name_tags(spawn.tags, *spawn.machine);
}

// In the order of the scene, so that all its runs give them the same bits.
void SceneRun::name_tags(const std::vector<std::string>& own, const Machine& machine) {
  (void)tags_.bits(own);
  for (const ClipInfo& clip : machine.clips())
    for (const BoxDef& box : clip.marks.boxes) (void)tags_.filter(box.hits, box.spares);
  for (const ReachDef& reach : machine.reaches()) (void)tags_.filter(reach.hits, reach.spares);
  for (const ZoneInfo& zone : machine.zones()) (void)tags_.bits(zone.def.tags);
  has_zones_ = has_zones_ || !machine.zones().empty();
}

// --- where everybody is ---------------------------------------------------------------------------------------------

Vec2 SceneRun::off(const Body& body, Ticks at) const {
  if (at >= body.end) return body.to;
  if (at <= body.begin) return body.from;
  const double part = static_cast<double>((at - body.begin).count) / static_cast<double>((body.end - body.begin).count);
  return {body.from.x + (body.to.x - body.from.x) * part, body.from.y + (body.to.y - body.from.y) * part};
}

Placement SceneRun::placement(std::size_t actor, Ticks at) const { return placement(actor, at, at); }

// Led by moves that have begun at `begun`.
Placement SceneRun::placement(std::size_t actor, Ticks at, Ticks begun) const {
  Placement out = actors_[actor]->start;
  const std::vector<SceneMove>& moves = actors_[actor]->moves;
  for (std::size_t m = 0; m < moves.size() && moves[m].at <= begun; ++m) {
    const SceneMove& move = moves[m];
    if (move.faces_left) out.faces_left = *move.faces_left;
    if (move.faces_it && m == bodies_[actor].faced_by) out.faces_left = bodies_[actor].faces_left;
    const Ticks gone = at - move.at;
    const double part =
        gone >= move.lasts ? 1 : static_cast<double>(gone.count) / static_cast<double>(move.lasts.count);
    out.at.x += move.by.x * part;
    out.at.y += move.by.y * part;
  }
  const Vec2 offset = off(bodies_[actor], at);
  out.at.x += offset.x;
  out.at.y += offset.y;
  return out;
}

bool SceneRun::alive(std::size_t actor) const {
  const Instance& instance = instances_[actor];
  if (instance.done() || bodies_[actor].gone) return false;
  const auto traits = instance.machine().traits();
  const auto dead = std::find(traits.begin(), traits.end(), "dead");
  return dead == traits.end() ||
         !instance.is({instance.machine().serial(), static_cast<std::uint16_t>(dead - traits.begin())});
}

const SceneMove* SceneRun::following(std::size_t actor) const {
  for (const SceneMove& move : actors_[actor]->moves)
    if (!move.follows.empty() && move.at <= now_ && now_ < move.at + move.lasts) return &move;
  return nullptr;
}

void SceneRun::set_grounded(std::size_t actor, bool value) {
  if (!actors_[actor]->grounded.empty() && !holds(actor, actors_[actor]->grounded.text))
    (void)instances_[actor].set_by_name(actors_[actor]->grounded.text, FieldValue(value));
}

// From now on to `until`, straight; who comes down before that stops there.
void SceneRun::plan(std::size_t actor, Ticks until) {
  Body& body = bodies_[actor];
  const Vec2 here = off(body, now_);
  body.from = body.to = here;
  if (body.flies && body.falls) body.velocity.y -= scene_.gravity * seconds_of(std::min(now_, body.end) - body.begin);
  body.begin = now_;
  body.end = until;
  const double time = seconds_of(until - now_);
  if (body.flies) {
    const double fall = body.falls ? scene_.gravity : 0;
    const double height = placement(actor, now_).at.y - scene_.ground;
    body.to = {here.x + body.velocity.x * time, here.y + body.velocity.y * time - fall * time * time / 2};
    if (body.falls && height + body.to.y - here.y <= 0 && (height > 0 || body.velocity.y <= 0)) {
      // h + v t - g t^2 / 2 = 0, the later root
      const double v = body.velocity.y, root = std::sqrt(std::max(0.0, v * v + 2 * fall * height));
      const double lands = std::clamp(fall > 0 ? (v + root) / fall : 0.0, 0.0, time);
      body.end = Ticks(now_.count + std::llround(std::ceil(lands * static_cast<double>(kTicksPerSecond) - 1e-6)));
      body.to = {here.x + body.velocity.x * lands, here.y - height};
      body.flies = false;
      body.velocity = {};
      if (body.end <= now_) {
        body.from = body.to;
        body.end = until;
        set_grounded(actor, true);
      }
    }
  }
  if (const SceneMove* move = following(actor)) {
    for (std::size_t i = 0; i < scene_.actors.size(); ++i) {
      if (scene_.actors[i].name.text != move->follows.text) continue;
      const Vec2 it = placement(i, now_).at, mine = placement(actor, now_).at;
      const Vec2 way{it.x - mine.x, it.y - mine.y};
      const double far = std::hypot(way.x, way.y);
      if (way.x != 0 && move->faces_it) {
        body.faces_left = way.x < 0;
        body.faced_by = static_cast<std::size_t>(move - actors_[actor]->moves.data());
      }
      const double step = std::clamp(far - move->keeps, 0.0, move->speed * seconds_of(body.end - now_));
      if (far > 0) body.to = {body.to.x + way.x / far * step, body.to.y + way.y / far * step};
    }
  }
}

// At the borders of cells, and where a flight has ended.
void SceneRun::plan_all() {
  for (std::size_t i = 0; i < actors_.size(); ++i) {
    Body& body = bodies_[i];
    const bool landed = !body.flies && body.end == now_ && body.begin < now_ && body.falls;
    if (landed && body.velocity.x == 0 && body.velocity.y == 0 && placement(i, now_).at.y <= scene_.ground + 1e-9)
      set_grounded(i, true);
    if ((body.flies || following(i) != nullptr) && body.end <= now_ && !body.gone) plan(i, next_cell(now_));
  }
}

void SceneRun::push(std::uint32_t actor, const Cue& cue) {
  Body& body = bodies_[actor];
  now_ = cue.at;
  const Placement here = placement(actor, cue.at);
  if (body.flies) plan(actor, next_cell(cue.at));  // its velocity now
  const double forward = cue.number("forward").value_or(0), up = cue.number("up").value_or(0);
  body.velocity.x += (here.faces_left ? -forward : forward) * here.scale;
  body.velocity.y += up * here.scale;
  const Vec2 offset = off(body, cue.at);
  body.from = body.to = offset;
  body.begin = body.end = cue.at;
  body.flies = body.falls = true;
  plan(actor, next_cell(cue.at));
  if (body.flies) set_grounded(actor, false);
}

void SceneRun::spawn(std::uint32_t parent, const Cue& cue, const std::function<void(const SceneRecord&)>& told) {
  const std::string_view what = cue.text("what").empty() ? cue.name() : cue.text("what");
  for (std::size_t s = 0; s < scene_.spawns.size(); ++s) {
    const SceneSpawn& spawn = scene_.spawns[s];
    if (spawn.what.text != what) continue;
    const auto there = static_cast<std::size_t>(
        std::count_if(bodies_.begin(), bodies_.end(), [](const Body& body) { return !body.gone; }));
    if (there >= kMostOnStage) return;
    Vec2 point{};
    if (const FieldValue* from = cue.field("from"))
      if (const auto* xy = std::get_if<std::vector<double>>(from); xy != nullptr && xy->size() == 2)
        point = {(*xy)[0], (*xy)[1]};
    const auto made = std::make_shared<SceneActor>();
    SceneActor& actor = *made;
    actor.name = Text(spawn.what.text + " " + std::to_string(++spawned_of_[s]));
    actor.file = spawn.file;
    actor.tags = spawn.tags;
    actor.rules = spawn.rules;
    actor.machine = spawn.machine;
    actor.start = placement(parent, cue.at);
    actor.start.at = to_world(point, actor.start, actors_[parent]->machine->unit());
    spawned_.push_back(made);
    actors_.push_back(&actor);
    instances_.emplace_back(*actor.machine, InstanceOptions{4, cue.at});
    next_step_.push_back(0);
    last_damage_.emplace_back();
    Body& body = bodies_.emplace_back();
    body.velocity = {spawn.velocity.x * (actor.start.faces_left ? -1 : 1) * actor.start.scale,
                     spawn.velocity.y * actor.start.scale};
    body.falls = spawn.falls;
    body.flies = spawn.falls || body.velocity.x != 0 || body.velocity.y != 0;
    body.begin = body.end = cue.at;
    if (spawn.lasts.count > 0) body.until = cue.at + spawn.lasts;
    SceneRecord record;
    record.what = SceneRecord::What::spawn;
    record.at = cue.at;
    record.actor = static_cast<std::uint32_t>(actors_.size() - 1);
    record.other = parent;
    told(record);
  }
}

// Who was spawned is gone when it is done or its time is over; everybody who is off the stage.
void SceneRun::clear_stage(const std::function<void(const SceneRecord&)>& told) {
  for (std::uint32_t i = 0; i < actors_.size(); ++i) {
    Body& body = bodies_[i];
    if (body.gone) continue;
    const Vec2 at = placement(i, now_).at;
    const bool spawned = i >= scene_.actors.size();
    const bool over = spawned && (instances_[i].done() || (body.until.count > 0 && now_ >= body.until));
    // At the borders of cells, so that it does not hang on where runs are cut.
    const bool off = now_.count % kCell.count == 0 && (std::abs(at.x) > kStage || std::abs(at.y) > kStage);
    if (!over && !off) continue;
    body.gone = true;
    SceneRecord record;
    record.what = SceneRecord::What::gone;
    record.at = now_;
    record.actor = i;
    told(record);
  }
}

// --- running --------------------------------------------------------------------------------------------------------

// The next instant at which something is written, a move or a flight begins or ends, or somebody's time is over.
Ticks SceneRun::next_cut(Ticks until) const {
  Ticks next = until;
  const auto at = [&](Ticks border) {
    if (border > now_) next = std::min(next, border);
  };
  for (std::size_t i = 0; i < actors_.size(); ++i) {
    if (bodies_[i].gone) continue;
    const SceneActor& actor = *actors_[i];
    if (next_step_[i] < actor.tape.steps.size()) next = std::min(next, actor.tape.steps[next_step_[i]].at);
    for (const SceneMove& move : actor.moves) at(move.at), at(move.at + move.lasts);
    at(bodies_[i].end);
    if (bodies_[i].until.count > 0) at(bodies_[i].until);
    if (at_wakes_) at(std::max(instances_[i].next_wake(), now_ + Ticks(1)));
  }
  return std::max(next, now_);
}

// What the hand holds is left out.
void SceneRun::write_from_tape(std::size_t actor, const TapeStep& step) {
  const bool free = std::none_of(held_.begin(), held_.end(), [&](const auto& each) { return each.first == actor; });
  if (free) return write_step(instances_[actor], step);
  TapeStep rest = step;
  std::erase_if(rest.set, [&](const auto& each) { return holds(actor, each.first.text); });
  std::erase_if(rest.pulses, [&](const Text& each) { return holds(actor, each.text); });
  write_step(instances_[actor], rest);
}

// Those of now, up to one before which the others take effect: that is written after a step of no time. Whether there
// is one.
// Whether a step of the instant that was come to is still to be written.
bool SceneRun::is_to_write() const {
  for (std::size_t i = 0; i < actors_.size(); ++i) {
    const auto& steps = actors_[i]->tape.steps;
    if (next_step_[i] < steps.size() && steps[next_step_[i]].at <= now_) return true;
  }
  return false;
}

bool SceneRun::write_steps() {
  bool waits = false;
  for (std::size_t i = 0; i < actors_.size(); ++i) {
    const auto& steps = actors_[i]->tape.steps;
    for (bool written = false; next_step_[i] < steps.size() && steps[next_step_[i]].at <= now_; written = true) {
      const TapeStep& step = steps[next_step_[i]];
      if ((written || !begun_) && takes_turn(step, written)) {
        waits = true;
        break;
      }
      write_from_tape(i, steps[next_step_[i]++]);
    }
  }
  return waits;
}

// What a hit does is written at its instant and takes effect there.
void SceneRun::react(std::uint32_t actor, std::initializer_list<std::string_view> by) {
  Instance& instance = instances_[actor];
  for (const HitRule& rule : actors_[actor]->rules) {
    if (!rule.box.empty() && std::find(by.begin(), by.end(), rule.box.text) == by.end()) continue;
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

// In order of time; at one instant in the order of the scene.
void SceneRun::run_apart(Ticks until, const std::function<void(const SceneRecord&)>& told) {
  std::vector<SceneRecord> records;
  for (bool more = true; more || now_ < until || is_to_write();) {
    more = write_steps();
    const Ticks cut = next_cut(until);
    records.clear();
    for (std::uint32_t i = 0; i < actors_.size(); ++i) {
      Instance& instance = instances_[i];
      if (instance.now() < now_) (void)instance.begin_at(now_);
      const auto hear = [&](const Cue& cue) {
        SceneRecord& record = records.emplace_back();
        record.at = cue.at;
        record.actor = i;
        record.cue = cue;
      };
      // A handler that writes nothing is never stopped.
      (void)instance.advance(cut - instance.now(), hear, kAllRecords);
    }
    std::stable_sort(records.begin(), records.end(),
                     [](const SceneRecord& a, const SceneRecord& b) { return a.at < b.at; });
    begun_ = true;
    now_ = cut;
    for (const SceneRecord& record : records) told(record);
  }
}

// The next part, up to `cut`, for the arena.
void SceneRun::enter_arena(Ticks cut) {
  arena_.begin(now_, cut);
  for (std::uint32_t i = 0; i < actors_.size(); ++i) {
    if (bodies_[i].gone) continue;
    // Who jumps at the end, or turns, is there as the next part begins, and nowhere between.
    Participant who{i, tags_.bits(actors_[i]->tags), true, placement(i, now_), placement(i, cut, now_)};
    who.to.faces_left = who.from.faces_left;
    (void)arena_.add(who, instances_[i]);
  }
}

void SceneRun::run(Ticks until, const std::function<void(const SceneRecord&)>& told) {
  if (scene_.still) return run_apart(until, told);
  Events events(*this, told);
  for (bool more = true; more;) {
    const bool waits = write_steps();
    plan_all();
    enter_arena(next_cut(until));
    more = arena_.run(events) || waits;
    begun_ = true;
    now_ = arena_.now();
    clear_stage(told);
    more = more || now_ < until || is_to_write();
    if (more || !has_zones_) continue;
    // Whoever is on the border of a zone now is in or out by where he goes on.
    plan_all();
    enter_arena(next_cut(now_ + kCell));
    more = arena_.run_begin(events);
  }
}

}  // namespace mobrin
