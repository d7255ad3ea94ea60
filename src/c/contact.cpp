// Who meets whom, for C: boxes, reaches, arenas, contacts and zones.
#include "convert.hpp"

using namespace mobrin::c;
using mobrin::Ticks;

struct mobrin_tags {
  mobrin::TagNames names;
  // Of mobrin_targets, kept.
  std::vector<mobrin::Candidate> who;
  std::vector<mobrin::Target> found;
};
struct mobrin_arena {
  mobrin_arena(mobrin_tags& tags, double margin) : arena(tags.names, margin) {}
  mobrin::Arena arena;
  std::vector<mobrin::PlainBox> boxes{};  // of one participant, kept
};
struct mobrin_arena_memory {
  mobrin::Arena::Memory memory;
};
struct mobrin_contacts {
  mobrin::Contacts contacts;
  std::vector<mobrin::PlainBox> boxes{};  // of one participant, kept
};
struct mobrin_zone_watch {
  mobrin::Zones zones;
};

namespace {

// A shape in pixels, as a machine's box has it.
mobrin::Shape pixel_shape(const mobrin_shape& from) {
  if (from.radius > 0) return mobrin::CircleShape{from.x, from.y, from.radius};
  return mobrin::RectShape{from.x - from.half_width, from.y - from.half_height, 2 * from.half_width,
                           2 * from.half_height};
}

// The caller's boxes, in memory that is used again.
std::span<const mobrin::PlainBox> plain(const mobrin_plain_box* boxes, std::uint32_t count,
                                        std::vector<mobrin::PlainBox>& out) {
  out.clear();
  for (std::uint32_t i = 0; boxes != nullptr && i < count; ++i) {
    const mobrin_plain_box box = taken(nth(boxes, i));
    out.push_back({box.hits != 0, pixel_shape(box.shape), box.unit, box.only, box.spares, Ticks(box.every), box.swing});
  }
  return out;
}

mobrin_hit given_hit(const mobrin::Hit& hit) {
  mobrin_hit out{};
  out.size = sizeof out;
  out.by = hit.by;
  out.on = hit.on;
  out.at = hit.at.count;
  out.hit_box = hit.hit_box == nullptr ? "" : hit.hit_box->name.text.c_str();
  out.hurt_box = hit.hurt_box == nullptr ? "" : hit.hurt_box->name.text.c_str();
  out.distance = hit.distance;
  out.x = hit.where.x;
  out.y = hit.where.y;
  return out;
}

mobrin_zone_event given_event(const mobrin::ZoneEvent& event) {
  mobrin_zone_event out{};
  out.size = sizeof out;
  out.owner = event.owner;
  out.visitor = event.visitor;
  out.zone = event.zone;
  out.at = event.at.count;
  out.entered = event.entered ? 1 : 0;
  return out;
}

mobrin::HitAnswer answer_of(int answer) {
  return answer == mobrin_dies     ? mobrin::HitAnswer::dies
         : answer == mobrin_misses ? mobrin::HitAnswer::misses
                                   : mobrin::HitAnswer::lives;
}

// A game's functions, those that are there.
class Game final : public mobrin::ArenaGame {
 public:
  explicit Game(const mobrin_arena_game& game) : game_(game) {}
  void told(std::uint32_t id, const mobrin::Cue& cue) override {
    if (game_.told != nullptr) game_.told(game_.context, id, given(&cue));
  }
  bool acts_at(std::uint32_t id, const mobrin::Cue& cue) override {
    return game_.acts_at != nullptr && game_.acts_at(game_.context, id, given(&cue)) != 0;
  }
  mobrin::HitAnswer hit(const mobrin::Hit& hit) override {
    if (game_.hit == nullptr) return mobrin::HitAnswer::lives;
    const mobrin_hit told = given_hit(hit);
    return answer_of(game_.hit(game_.context, &told));
  }
  void settled(Ticks at) override {
    if (game_.settled != nullptr) game_.settled(game_.context, at.count);
  }
  void zone(const mobrin::ZoneEvent& event) override {
    const mobrin_zone_event told = given_event(event);
    if (game_.zone != nullptr) game_.zone(game_.context, &told);
  }
  void aside(mobrin::Crowd& crowd, const mobrin::CrowdCue& cue) override {
    if (game_.aside != nullptr) game_.aside(game_.context, static_cast<mobrin_crowd*>(&crowd), given(&cue));
  }

 private:
  mobrin_arena_game game_;
};

}  // namespace

extern "C" {

mobrin_tags* mobrin_tags_new(void) { return new mobrin_tags; }
void mobrin_tags_free(mobrin_tags* tags) { delete tags; }
uint64_t mobrin_tag(mobrin_tags* tags, const char* name) {
  return tags == nullptr || name == nullptr ? 0 : tags->names.bit(name);
}

uint32_t mobrin_boxes(const mobrin_instance* it, const mobrin_placement* where, mobrin_box* out, uint32_t room) {
  if (it == nullptr || where == nullptr) return 0;
  const auto boxes = all<mobrin::ActiveBox>(
      [&](std::span<mobrin::ActiveBox> to) { return mobrin::boxes(*of(it), placement(*where), to); });
  boxes.each(out, room, [](mobrin_box* to, const mobrin::ActiveBox& each) {
    const mobrin::WorldShape& shape = each.shape;
    mobrin_box box{};
    box.region = each.region;
    box.clip = each.clip;
    box.name = each.box->name.text.c_str();
    box.role = each.box->role.text.c_str();
    box.shape = {shape.middle.x, shape.middle.y, shape.half_width, shape.half_height, shape.radius};
    give(to, box);
  });
  return boxes.count();
}

void mobrin_local_direction(double velocity_x, double velocity_y, double facing_x, double facing_y, double walk_speed,
                            double* forward, double* right) {
  const mobrin::LocalDirection local =
      mobrin::local_direction({velocity_x, velocity_y}, {facing_x, facing_y}, walk_speed);
  if (forward != nullptr) *forward = local.forward;
  if (right != nullptr) *right = local.right;
}
int mobrin_heading(double velocity_x, double velocity_y, int count, int before, double slack) {
  if ((count != 4 && count != 8) || before < 0 || before >= count) return before;
  return mobrin::heading({velocity_x, velocity_y}, count, before, slack);
}

uint32_t mobrin_cue_reach(const mobrin_machine* machine, const mobrin_cue* cue) {
  if (machine == nullptr || cue == nullptr || cue->machine != &of(machine)->data()) return MOBRIN_NONE;
  const mobrin::ReachDef* reach = mobrin::reach_of(*of(cue), *of(machine));
  return reach == nullptr ? MOBRIN_NONE : static_cast<std::uint32_t>(reach - of(machine)->reaches().data());
}
size_t mobrin_targets(const mobrin_machine* machine, uint32_t reach, const mobrin_placement* origin, uint32_t self,
                      const mobrin_candidate* candidates, size_t count, mobrin_tags* tags, mobrin_target* out,
                      size_t room) {
  if (machine == nullptr || origin == nullptr || tags == nullptr || reach >= of(machine)->reaches().size()) return 0;
  tags->who.clear();
  for (const mobrin_candidate& each : list(candidates, count))
    tags->who.push_back({each.id, {each.x, each.y}, each.radius, each.tags, each.alive != 0});
  const std::size_t all = mobrin::targets(of(machine)->reaches()[reach], placement(*origin), of(machine)->unit(), self,
                                          tags->who, tags->names, tags->found);
  for (std::size_t i = 0; out != nullptr && i < std::min(tags->found.size(), room); ++i)
    out[i] = {tags->found[i].id, tags->found[i].distance};
  return all;
}

// --- arenas

mobrin_arena* mobrin_arena_new(mobrin_tags* tags, double margin) {
  return tags == nullptr ? nullptr : new mobrin_arena(*tags, margin);
}
void mobrin_arena_free(mobrin_arena* arena) { delete arena; }
void mobrin_arena_begin(mobrin_arena* arena, mobrin_ticks from, mobrin_ticks to) {
  if (arena != nullptr) arena->arena.begin(Ticks(from), Ticks(std::max(from, to)));
}
int mobrin_arena_add(mobrin_arena* arena, const mobrin_participant* who, mobrin_instance* it) {
  if (arena == nullptr || who == nullptr || it == nullptr) return 0;
  return arena->arena.add(participant(who), *of(it)) ? 1 : 0;
}
int mobrin_arena_add_member(mobrin_arena* arena, const mobrin_participant* who, mobrin_crowd* crowd,
                            mobrin_member member) {
  if (arena == nullptr || who == nullptr || crowd == nullptr) return 0;
  return arena->arena.add(participant(who), *crowd, member_of(member)) ? 1 : 0;
}
int mobrin_arena_add_boxes(mobrin_arena* arena, const mobrin_participant* who, const mobrin_plain_box* boxes,
                           uint32_t count) {
  if (arena == nullptr || who == nullptr) return 0;
  return arena->arena.add(participant(who), plain(boxes, count, arena->boxes)) ? 1 : 0;
}
int mobrin_arena_run(mobrin_arena* arena, const mobrin_arena_game* functions) {
  if (arena == nullptr) return 0;
  Game game(taken(functions));
  return arena->arena.run(game) ? 1 : 0;
}
int mobrin_arena_run_begin(mobrin_arena* arena, const mobrin_arena_game* functions) {
  if (arena == nullptr) return 0;
  Game game(taken(functions));
  return arena->arena.run_begin(game) ? 1 : 0;
}
void mobrin_arena_end_here(mobrin_arena* arena) {
  if (arena != nullptr) arena->arena.end_here();
}
mobrin_instance* mobrin_arena_instance(mobrin_arena* arena, uint32_t id) {
  return arena == nullptr ? nullptr : given(arena->arena.instance(id));
}
mobrin_ticks mobrin_arena_now(const mobrin_arena* arena) { return arena == nullptr ? 0 : arena->arena.now().count; }
mobrin_arena_memory* mobrin_arena_remember(const mobrin_arena* arena) {
  return arena == nullptr ? nullptr : new mobrin_arena_memory{arena->arena.memory()};
}
void mobrin_arena_recall(mobrin_arena* arena, const mobrin_arena_memory* memory) {
  if (arena != nullptr && memory != nullptr) arena->arena.recall(memory->memory);
}
void mobrin_arena_memory_free(mobrin_arena_memory* memory) { delete memory; }

// --- contacts

mobrin_contacts* mobrin_contacts_new(mobrin_tags* tags) {
  return tags == nullptr ? nullptr : new mobrin_contacts{mobrin::Contacts(tags->names), {}};
}
mobrin_contacts* mobrin_contacts_copy(const mobrin_contacts* contacts) {
  return contacts == nullptr ? nullptr : new mobrin_contacts(*contacts);
}
void mobrin_contacts_free(mobrin_contacts* contacts) { delete contacts; }
void mobrin_contacts_begin(mobrin_contacts* contacts, mobrin_ticks from, mobrin_ticks to) {
  if (contacts != nullptr) contacts->contacts.begin(Ticks(from), Ticks(std::max(from, to)));
}
int mobrin_contacts_advance(mobrin_contacts* contacts, const mobrin_participant* who, mobrin_instance* it,
                            mobrin_cue_handler handler, void* context, uint32_t listening) {
  if (contacts == nullptr || who == nullptr || it == nullptr) return 0;
  return contacts->contacts.advance(participant(who), *of(it), Teller{handler, context},
                                    static_cast<mobrin::Listening>(listening & MOBRIN_ALL_RECORDS))
             ? 1
             : 0;
}
int mobrin_contacts_add_boxes(mobrin_contacts* contacts, const mobrin_participant* who, const mobrin_plain_box* boxes,
                              uint32_t count) {
  if (contacts == nullptr || who == nullptr) return 0;
  return contacts->contacts.add(participant(who), plain(boxes, count, contacts->boxes)) ? 1 : 0;
}
void mobrin_contacts_resolve(mobrin_contacts* contacts, int (*answer)(void* context, const mobrin_hit* hit),
                             void* context) {
  if (contacts == nullptr) return;
  contacts->contacts.resolve([&](const mobrin::Hit& hit) {
    const mobrin_hit told = given_hit(hit);
    return answer == nullptr ? mobrin::HitAnswer::lives : answer_of(answer(context, &told));
  });
}

// --- zones

mobrin_zone_watch* mobrin_zone_watch_new(mobrin_tags* tags, double margin) {
  return tags == nullptr ? nullptr : new mobrin_zone_watch{mobrin::Zones(tags->names, margin)};
}
mobrin_zone_watch* mobrin_zone_watch_copy(const mobrin_zone_watch* watch) {
  return watch == nullptr ? nullptr : new mobrin_zone_watch(*watch);
}
void mobrin_zone_watch_free(mobrin_zone_watch* watch) { delete watch; }
void mobrin_zone_watch_begin(mobrin_zone_watch* watch, mobrin_ticks from, mobrin_ticks to) {
  if (watch != nullptr) watch->zones.begin(Ticks(from), Ticks(std::max(from, to)));
}
int mobrin_zone_watch_add_owner(mobrin_zone_watch* watch, uint32_t id, mobrin_instance* it,
                                const mobrin_placement* from, const mobrin_placement* to) {
  if (watch == nullptr || it == nullptr || from == nullptr || to == nullptr) return 0;
  return watch->zones.add_owner(id, *of(it), placement(*from), placement(*to)) ? 1 : 0;
}
int mobrin_zone_watch_add_visitor(mobrin_zone_watch* watch, uint32_t id, uint64_t tags, double from_x, double from_y,
                                  double to_x, double to_y) {
  return watch != nullptr && watch->zones.add_visitor({id, tags, {from_x, from_y}, {to_x, to_y}}) ? 1 : 0;
}
uint32_t mobrin_zone_watch_resolve(mobrin_zone_watch* watch,
                                   void (*handler)(void* context, const mobrin_zone_event* event), void* context) {
  if (watch == nullptr) return 0;
  const std::span<const mobrin::ZoneEvent> events = watch->zones.resolve();
  for (const mobrin::ZoneEvent& event : events) {
    const mobrin_zone_event told = given_event(event);
    if (handler != nullptr) handler(context, &told);
  }
  return static_cast<std::uint32_t>(events.size());
}

}  // extern "C"
