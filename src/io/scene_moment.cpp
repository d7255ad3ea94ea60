// Scenes: what is left to the hand, going back to an instant, going over to another version.
#include <algorithm>
#include <span>

#include "mobrin/io/scene.hpp"

namespace mobrin {

void SceneRun::hold(std::size_t actor, std::uint16_t input, bool held) {
  const std::pair<std::uint32_t, std::uint32_t> pair(static_cast<std::uint32_t>(actor), input);
  std::erase(held_, pair);
  if (held) held_.push_back(pair);
}

bool SceneRun::holds(std::size_t actor, std::uint16_t input) const {
  const std::pair<std::uint32_t, std::uint32_t> pair(static_cast<std::uint32_t>(actor), input);
  return std::find(held_.begin(), held_.end(), pair) != held_.end();
}

bool SceneRun::holds(std::size_t actor, std::string_view input) const {
  const auto inputs = actors_[actor]->machine->inputs();
  return std::any_of(held_.begin(), held_.end(),
                     [&](const auto& each) { return each.first == actor && inputs[each.second].name.text == input; });
}

std::size_t SceneRun::Moment::bytes() const {
  return sizeof *this + blocks_.size() +
         bodies_.size() * (sizeof(Body) + sizeof(std::size_t) + sizeof(std::string_view)) + sizeof(Arena::Memory) +
         (struck_.size() + held_.size()) * 8 + spawned_.size() * sizeof(SceneActor);
}

SceneRun::Moment SceneRun::save() const {
  Moment out;
  out.now_ = now_;
  out.begun_ = begun_;
  out.spawned_ = spawned_;
  out.spawned_of_ = spawned_of_;
  for (const Instance& each : instances_) {
    const auto block = each.block();
    out.blocks_.insert(out.blocks_.end(), block.begin(), block.end());
  }
  out.bodies_ = bodies_;
  out.next_step_ = next_step_;
  out.last_damage_ = last_damage_;
  out.struck_ = struck_;
  out.held_ = held_;
  out.arena_ = arena_.memory();
  return out;
}

void SceneRun::restore(const Moment& moment) {
  now_ = moment.now_;
  begun_ = moment.begun_;
  // Who was spawned in both stays; who came later, or on another way, goes.
  std::size_t same = 0;
  while (same < spawned_.size() && same < moment.spawned_.size() && spawned_[same] == moment.spawned_[same]) ++same;
  actors_.resize(scene_.actors.size() + same);
  while (instances_.size() > actors_.size()) instances_.pop_back();
  spawned_ = moment.spawned_;
  for (std::size_t i = same; i < spawned_.size(); ++i) {
    actors_.push_back(spawned_[i].get());
    instances_.emplace_back(*spawned_[i]->machine);
  }
  spawned_of_ = moment.spawned_of_;
  std::size_t at = 0;
  for (Instance& each : instances_) {
    const std::size_t size = each.block().size();
    (void)each.restore(std::span(moment.blocks_).subspan(at, size));
    at += size;
  }
  bodies_ = moment.bodies_;
  next_step_ = moment.next_step_;
  last_damage_ = moment.last_damage_;
  struck_ = moment.struck_;
  held_ = moment.held_;
  arena_.recall(*moment.arena_);
}

std::vector<std::pair<std::string, CarryLoss>> SceneRun::carry_over(const SceneRun& from) {
  std::vector<std::pair<std::string, CarryLoss>> losses;
  const auto take = [&](std::size_t to, std::size_t source) {
    const SceneActor& actor = *actors_[to];
    for (CarryLoss& loss : mobrin::carry_over(from.instances_[source], instances_[to]))
      losses.emplace_back(actor.name.text, std::move(loss));
    bodies_[to] = from.bodies_[source];
    const auto& steps = actor.tape.steps;
    // What its tape wrote until now was written; of this very instant too, if it was.
    next_step_[to] = static_cast<std::size_t>(std::count_if(steps.begin(), steps.end(), [&](const TapeStep& step) {
      return step.at < from.now_ || (step.at == from.now_ && from.begun_);
    }));
    for (const auto& [holder, input] : from.held_) {
      if (holder != source) continue;
      const std::string& name = from.actors_[source]->machine->inputs()[input].name.text;
      const auto inputs = actor.machine->inputs();
      for (std::uint16_t i = 0; i < inputs.size(); ++i)
        if (inputs[i].name.text == name) hold(to, i);
    }
  };
  now_ = from.now_;
  begun_ = from.begun_;
  for (std::size_t i = 0; i < scene_.actors.size(); ++i)
    for (std::size_t j = 0; j < from.scene_.actors.size(); ++j)
      if (scene_.actors[i].name.text == from.scene_.actors[j].name.text) take(i, j);
  for (std::size_t j = 0; j < from.spawned_.size(); ++j) {
    const std::size_t source = from.scene_.actors.size() + j;
    if (from.bodies_[source].gone) continue;
    const std::string& name = from.spawned_[j]->name.text;
    const auto kind = std::find_if(scene_.spawns.begin(), scene_.spawns.end(),
                                   [&](const SceneSpawn& spawn) { return name.starts_with(spawn.what.text + " "); });
    if (kind == scene_.spawns.end()) continue;
    const auto made = std::make_shared<SceneActor>(*from.spawned_[j]);
    made->file = kind->file;
    made->tags = kind->tags;
    made->rules = kind->rules;
    made->machine = kind->machine;
    spawned_.push_back(made);
    actors_.push_back(made.get());
    instances_.emplace_back(*made->machine);
    bodies_.emplace_back();
    next_step_.push_back(0);
    last_damage_.emplace_back();
    take(instances_.size() - 1, source);
  }
  for (std::size_t s = 0; s < scene_.spawns.size(); ++s)
    for (std::size_t o = 0; o < from.scene_.spawns.size(); ++o)
      if (scene_.spawns[s].what.text == from.scene_.spawns[o].what.text) spawned_of_[s] = from.spawned_of_[o];
  return losses;
}

bool SceneRun::adopt(const std::vector<std::vector<std::byte>>& blocks) {
  if (blocks.size() != instances_.size() || !scene_.still) return false;
  for (std::size_t i = 0; i < blocks.size(); ++i)
    if (blocks[i].size() != instances_[i].block().size()) return false;
  for (std::size_t i = 0; i < blocks.size(); ++i) (void)instances_[i].restore(blocks[i]);
  now_ = instances_.empty() ? now_ : instances_.front().now();
  begun_ = true;
  return true;
}

}  // namespace mobrin
