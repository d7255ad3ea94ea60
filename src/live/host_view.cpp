// The host: what is so, as JSON.
#include <algorithm>

#include "host.hpp"
#include "mobrin/core/carry.hpp"
#include "tables.hpp"

namespace mobrin::live {
namespace {

constexpr std::size_t kMostOfNow = std::size_t{15} << 10;  // of `now`, for the actors; 16 KiB with the rest

Json shape_json(const WorldShape& shape) {
  if (shape.is_circle()) return {shape.middle.x, shape.middle.y, shape.radius};
  return {shape.middle.x, shape.middle.y, shape.half_width, shape.half_height};
}

}  // namespace

Json json_of(const SessionRecord& record) {
  constexpr const char* kWhat[] = {"told", "hit", "zone", "spawn", "gone"};
  constexpr const char* kTold[] = {"cue", "enter", "leave", "loop", "done", "fault"};
  Json out = {{"t", record.at.count}, {"a", record.actor}, {"v", record.stretch}};
  if (record.what != SceneRecord::What::told) {
    out["k"] = kWhat[static_cast<std::size_t>(record.what)];
    out["o"] = record.other;
    if (!record.text.empty()) out["x"] = record.text;
    if (record.what == SceneRecord::What::zone) out["in"] = record.entered;
    return out;
  }
  const Cue& cue = record.cue;
  out["k"] = kTold[static_cast<std::size_t>(cue.what)];
  if (cue.state != kNoIndex) out["s"] = cue.state;
  if (cue.transition != kNoTransition) out["r"] = cue.transition;
  if (cue.what != Told::cue) return out;
  out["c"] = cue.cue;
  if (cue.clip != kNoIndex) out["clip"] = cue.clip;
  if (cue.frame >= 0) out["f"] = cue.frame;
  if (cue.edge != Edge::none) out["e"] = cue.edge == Edge::begin ? "begin" : "end";
  return out;
}

Json json_of(const SessionWrite& write) {
  Json out = {{"t", write.at.count}, {"a", write.actor}};
  if (!write.by_hand) out["tape"] = true;
  if (write.cast != nullptr) out["reload"] = true;
  if (write.blocks != nullptr) out["placed"] = true;
  if (write.give_back) out["back"] = write.give_back->text;
  const TapeStep& step = write.step;
  for (const auto& [name, value] : step.set) out["set"][name.text] = json_of(value);
  for (const Text& pulse : step.pulses) out["press"].push_back(pulse.text);
  if (step.rate) out["rate"] = *step.rate;
  if (step.freeze) out["freeze"] = step.freeze->count;
  if (step.place) out["place"] = step.place->text;
  if (step.played.count > 0) out["played"] = step.played.count;
  if (step.reset) out["reset"] = true;
  if (step.force) out["force"] = step.force->text;
  return out;
}

Json Host::now() const {
  const SceneRun& run = session_.run();
  Json actors = Json::array();
  Ticks next(INT64_MAX);
  // Of all their names; whole, those that are looked at first, as long as there is room; of the others what the stage
  // draws, if need be without boxes.
  std::vector<std::size_t> order(chosen_.begin(), chosen_.end());
  for (std::size_t i = 0; i < run.actors(); ++i)
    if (std::find(chosen_.begin(), chosen_.end(), i) == chosen_.end()) order.push_back(i);
  std::vector<Json> seen(run.actors());
  std::vector<std::size_t> sizes;
  std::size_t used = 0;
  for (std::size_t i = 0; i < run.actors(); ++i) {
    seen[i] = {{"name", run.actor(i).name.text}, {"unseen", true}};
    if (run.gone(i)) seen[i]["gone"] = true;
    if (!run.gone(i)) next = std::min(next, run.instance(i).next_wake());
    sizes.push_back(text_of(seen[i]).size() + 1);
    used += sizes.back();
  }
  bool first = true;  // whatever it takes
  for (const std::size_t i : order) {
    if (i >= run.actors()) continue;
    Json one = actor(i);
    std::size_t size = text_of(one).size() + 1;
    const std::size_t room = kMostOfNow - std::min(kMostOfNow, used - sizes[i]);
    const auto without = [&](std::initializer_list<const char*> keys) {
      if (first || size <= room) return;
      for (const char* key : keys) one.erase(key);
      one["less"] = true;
      size = text_of(one).size() + 1;
    };
    without({"rules", "inputs", "held", "vars", "traits", "notes", "hash"});
    without({"boxes"});
    if (!first && size > room) break;
    first = false;
    used = used - sizes[i] + size;
    seen[i] = std::move(one);
  }
  for (Json& one : seen) actors.push_back(std::move(one));
  Json strands = Json::array();
  for (const StrandInfo& each : session_.strands())
    strands.push_back({{"id", each.id}, {"from", each.from.count}, {"to", each.to.count}, {"writes", each.writes}});
  Json out = {{"t", session_.now().count},     {"first", session_.first().count},
              {"end", session_.end().count},   {"past", session_.number()},
              {"v", session_.stretch()},       {"newest", session_.newest()},
              {"playing", playing_},           {"speed", speed_},
              {"waits", session_.waits()},     {"next", next.count == INT64_MAX ? Json() : Json(next.count)},
              {"strands", std::move(strands)}, {"actors", std::move(actors)}};
  if (watches_) {
    Json others = Json::array();
    for (const auto& [name, at] : elsewhere_) others.push_back({name, at.count});
    out["game"] = {{"attached", attached_}, {"ended", ended_}, {"gaps", gaps_}, {"elsewhere", std::move(others)}};
  }
  if (session_.halted()) {
    const Halt& halt = *session_.halted();
    constexpr const char* kOn[] = {"state", "rule", "cue", "holds"};
    out["halted"] = {{"on", kOn[static_cast<std::size_t>(halt.on)]}, {"a", halt.actor}, {"i", halt.index}};
    if (!halt.holds.empty()) out["halted"]["holds"] = halt.holds;
  }
  return out;
}

Json Host::actor(std::size_t index) const {
  const SceneRun& run = session_.run();
  const Instance& instance = run.instance(index);
  const Machine& machine = instance.machine();
  const Placement place = run.placement(index, run.now());
  const std::vector<std::string> files = machine_files(session_.cast());
  Json out = {{"name", run.actor(index).name.text},
              {"m", std::find(files.begin(), files.end(), run.actor(index).file) - files.begin()}};
  if (run.gone(index)) {
    out["gone"] = true;
    return out;
  }
  if (index < notes_.size()) out["notes"] = noted(index);
  out["x"] = place.at.x;
  out["y"] = place.at.y;
  out["left"] = place.faces_left;
  out["scale"] = place.scale;
  out["alive"] = run.alive(index);
  out["done"] = instance.done();
  out["hash"] = hex_text(instance.hash());
  out["rate"] = instance.rate();
  if (instance.look() != kNoIndex) out["look"] = instance.look();
  Json regions = Json::array();
  for (std::uint16_t r = 0; r < instance.region_count(); ++r) {
    const std::uint16_t leaf = instance.active(r);
    Json layers = Json::array();
    Shown all[8];
    const std::size_t count = std::min(std::size(all), instance.blended(r, all));
    if (count > 1) {
      for (std::size_t i = 0; i < count; ++i)
        layers.push_back({all[i].clip == kNoIndex ? Json() : Json(all[i].clip), all[i].frame, all[i].seconds,
                          all[i].weight, all[i].mirrored});
    } else {
      for (const Shown& each : instance.layers(r))
        layers.push_back(
            {each.clip == kNoIndex ? Json() : Json(each.clip), each.frame, each.seconds, each.weight, each.mirrored});
    }
    regions.push_back({{"s", leaf == kNoIndex ? Json() : Json(leaf)}, {"shows", std::move(layers)}});
  }
  out["regions"] = std::move(regions);
  out["rules"] = last_rules(index);
  Json inputs = Json::array(), held = Json::array();
  for (std::uint16_t i = 0; i < machine.inputs().size(); ++i) {
    inputs.push_back(json_of(instance.input_value(i)));
    if (run.holds(index, i)) held.push_back(i);
  }
  out["inputs"] = std::move(inputs);
  out["held"] = std::move(held);
  Json variables = Json::array();
  for (const SavedInstance::Named& each : save(instance).variables)
    variables.push_back({each.state, each.name, json_of(each.value)});
  out["vars"] = std::move(variables);
  Json traits = Json::array();
  for (std::uint16_t i = 0; i < machine.traits().size(); ++i)
    if (instance.is({machine.serial(), i})) traits.push_back(machine.traits()[i]);
  out["traits"] = std::move(traits);
  std::vector<ActiveBox> boxes(64);
  boxes.resize(std::min(boxes.size(), mobrin::boxes(instance, place, boxes)));
  Json drawn = Json::array();
  for (const ActiveBox& each : boxes)
    drawn.push_back({each.box->name.text, each.box->role.text, shape_json(each.shape)});
  out["boxes"] = std::move(drawn);
  return out;
}

// What the game says of it beside its state; as it is now, whatever instant is shown.
Json Host::noted(std::size_t index) const {
  constexpr const char* kStatus[] = {"waiting", "running", "succeeded", "failed", "interrupted", "lost"};
  const WatchedNote& note = notes_[index];
  Json tickets = Json::array(), counts = Json::array();
  for (const probe::OpenTicket& each : note.tickets)
    tickets.push_back({kStatus[static_cast<std::size_t>(each.status)],
                       each.pulse == kNoIndex ? Json() : Json(each.pulse),
                       each.state == kNoIndex ? Json() : Json(each.state)});
  Json out = {{"tickets", std::move(tickets)}};
  if (note.places == 0 && note.place == probe::kNobody) return out;
  for (const auto& [state, count] : note.counts) counts.push_back({state, count});
  out["crowd"] = {{"place", note.place == probe::kNobody ? Json() : Json(note.place)},
                  {"members", note.members},
                  {"places", note.places},
                  {"counts", std::move(counts)}};
  return out;
}

// By region the rule that led to what is active, with its instant: the last one within some seconds.
Json Host::last_rules(std::size_t actor) const {
  const auto states = session_.run().instance(actor).machine().states();
  Json out = Json::array();
  const auto records = session_.records(session_.now() - seconds(3), session_.now(), 400);
  for (std::uint16_t r = 0; r < session_.run().instance(actor).region_count(); ++r) {
    Json found;
    for (auto each = records.rbegin(); each != records.rend(); ++each) {
      if (each->actor != actor || each->what != SceneRecord::What::told || each->cue.what != Told::enter ||
          each->cue.transition == kNoTransition || each->stretch != session_.stretch() ||
          states[each->cue.state].region != r)
        continue;
      found = {each->cue.transition, each->at.count};
      break;
    }
    out.push_back(std::move(found));
  }
  return out;
}

Json Host::looked(const std::vector<Session::Looked>& all) const {
  constexpr const char* kVerdicts[] = {"event", "guard", "window", "sealed", "already", "stands", "taken"};
  constexpr const char* kSkipped[] = {"above", "around", "left"};
  Json out = Json::array();
  for (const Session::Looked& each : all) {
    Json parts = Json::array();
    for (const PartValue& part : each.parts)
      parts.push_back({part.text, !part.choice.empty() ? Json(part.choice)
                                  : part.is_truth      ? Json(part.value != 0)
                                                       : Json(part.value)});
    out.push_back({{"t", each.at.count},
                   {"round", each.round},
                   {"r", each.transition},
                   {"is", each.skipped ? kSkipped[static_cast<std::size_t>(each.skipped->why)]
                                       : kVerdicts[static_cast<std::size_t>(each.verdict)]},
                   {"parts", std::move(parts)}});
    if (each.skipped) out.back()["by"] = each.skipped->by;
    if (!each.shown.nothing()) out.back()["plays"] = {each.shown.clip, each.shown.frame, each.shown.seconds};
  }
  return out;
}

namespace {

Json page_of(const std::vector<SessionRecord>& records, const std::vector<SessionWrite>& writes) {
  Json out = {{"records", Json::array()}, {"writes", Json::array()}};
  for (const SessionRecord& each : records) out["records"].push_back(json_of(each));
  for (const SessionWrite& each : writes) out["writes"].push_back(json_of(each));
  return out;
}

}  // namespace

Json Host::past(Ticks from, Ticks to) const {
  Json out = page_of(session_.records(from, to), session_.writes(from, to));
  out["past"] = session_.number();
  return out;
}

Json Host::past_of(std::uint32_t strand) const { return page_of(session_.records_of(strand), {}); }

}  // namespace mobrin::live
