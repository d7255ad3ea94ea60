// The doors for calls: every one of the game part, with any arguments, in any order.
#include <algorithm>
#include <cstdio>
#include <deque>
#include <limits>

#include "../made_machine.hpp"
#include "kit.hpp"
#include "mobrin/contact/arena.hpp"
#include "mobrin/contact/reach.hpp"
#include "mobrin/core/bindings.hpp"
#include "mobrin/core/crowd.hpp"
#include "mobrin/io/load.hpp"
#include "mobrin/io/record.hpp"

namespace mobrin::fuzz {

// Every call of an instance and a crowd, with any arguments, in any order.
void calls(Bytes bytes) {
  Source from(bytes);
  const auto seed = from.take<std::uint16_t>();
  test::RandomMachine random(seed);
  const Compiled compiled = compile(test::made(seed, random));
  if (!compiled.machine) return;
  const Machine& machine = *compiled.machine;
  Instance it(machine, {static_cast<std::uint16_t>(from.take<std::uint8_t>() % 6), Ticks(from.take<std::int32_t>())});
  Crowd crowd(machine);
  std::vector<Member> members;
  std::vector<std::byte> kept(it.block().begin(), it.block().end()), snapshot;
  std::vector<Ticket> tickets(3);
  CrowdCues told({}, 5'000);
  std::vector<Cue> memory(2'000);
  CueBuffer cues(memory, kAllRecords);
  Recorder recorder(it, "fuzz");
  const auto state = [&] {
    return State{from.pick(4) == 0 ? from.take<std::uint32_t>() : machine.serial(),
                 static_cast<std::uint16_t>(from.pick(machine.states().size()))};
  };
  const auto member = [&] {
    return members.empty() || from.pick(8) == 0 ? Member{from.take<std::uint32_t>(), from.take<std::uint32_t>()}
                                                : members[from.pick(members.size())];
  };
  const auto some_time = [&] { return Ticks(std::min<std::int64_t>(from.time().count, seconds(20).count)); };
  for (int call = 0; call < 400 && from.more(); ++call) {
    switch (from.pick(28)) {
      case 0:
        write_any(it, from);
        break;
      case 1:
      case 2:
        cues.clear();
        (void)it.advance(some_time(), cues);
        break;
      case 3:
        (void)it.set_rate(from.take<double>());
        break;
      case 4:
        (void)it.freeze(from.time());
        break;
      case 5:
        it.reset();
        break;
      case 6:
        (void)it.force(state());
        break;
      case 7:
        (void)it.place(state(), from.time());
        break;
      case 8:
        kept.assign(it.block().begin(), it.block().end());
        break;
      case 9:
        (void)it.restore(kept);
        break;
      case 10:
        tickets[from.pick(3)] = it.follow(state());
        break;
      case 11:
        if (const auto pulse = machine.pulse("p")) tickets[from.pick(3)] = it.ask(*pulse);
        break;
      case 12:
        (void)it.status(tickets[from.pick(3)]),
            (void)it.give_back({from.take<std::uint32_t>(), from.take<std::uint32_t>(), from.take<std::uint16_t>()});
        break;
      case 13:
        look_at_all(it);
        break;
      case 14: {
        Instance other(machine);
        (void)carry_over(it, other);
        must(other.hash() == it.hash(), "what is carried over goes on alike");
        break;
      }
      case 15:
        it.consider(), (void)it.never_ends(tickets[0]);
        break;
      case 16:
        if (members.size() < 40) members.push_back(crowd.add());
        break;
      case 17:
        (void)crowd.remove(member());
        break;
      case 18:
      case 19:
        told.clear();
        for (Advanced part = crowd.advance(some_time(), told); !part.complete() && part.needs <= told.limit();) {
          told.clear();
          part = crowd.advance(part.left, told);
        }
        break;
      case 20:
        if (const auto x = machine.input<float>("v"))
          (void)crowd.set(member(), *x, from.take<float>()), (void)crowd.set_all(*x, from.take<float>());
        break;
      case 21:
        if (const auto pulse = machine.pulse("q")) (void)crowd.pulse(member(), *pulse);
        break;
      case 22:
        (void)crowd.set_rate(member(), from.take<double>()), (void)crowd.freeze(member(), from.time());
        break;
      case 23:
        (void)crowd.place(member(), state(), from.time());
        break;
      case 24:
        crowd.snapshot(snapshot);
        break;
      case 25:
        if (!snapshot.empty()) must(crowd.restore(snapshot), "a snapshot is taken back");
        break;
      case 26: {
        (void)crowd.shown_all(), (void)crowd.shown_changed(), (void)crowd.hash();
        if (const auto copy = crowd.copy(member())) look_at_all(*copy);
        break;
      }
      default:
        (void)crowd.reset(member());
    }
  }
  const std::string recorded = tape_text(recorder.tape());
  const LoadedTape read = load_tape_text(recorded, "fuzz");
  for (const Finding& finding : read.findings) std::fprintf(stderr, "%s\n", finding.text().c_str());
  must(read.tape.has_value(), "what was recorded is a tape");
}

// Those who meet: hornets, keepers and stones anywhere, also where nobody can be, in one arena; and reaches.
void meetings(Bytes bytes) {
  struct Game : ArenaGame {
    HitAnswer hit(const Hit& hit) override { return static_cast<HitAnswer>(hit.on % 3); }
    bool acts_at(std::uint32_t id, const Cue&) override { return id % 3 == 0; }
    void told(std::uint32_t id, const Cue&) override {
      if (Instance* it = arena->instance(id); it != nullptr && id % 5 == 0) (void)it->set_rate(id % 7);
    }
    Arena* arena = nullptr;
  };
  static const Machine hornet = [] {
    const Loaded loaded = load_character(demo_folder() + "/hornet.yaml");
    must(loaded.machine.has_value(), "the hornet is there");
    return *loaded.machine;
  }();
  Source from(bytes);
  TagNames tags;
  (void)tags.bit("keeper"), (void)tags.bit("hornet");
  Arena arena(tags, from.take<float>());
  Game game;
  game.arena = &arena;
  std::deque<Instance> instances;
  Crowd crowd(hornet);
  std::vector<Member> members;
  Ticks now{};
  const auto place = [&] {
    const auto coordinate = [&] {
      return from.pick(8) == 0 ? double{from.take<float>()} : from.take<std::int8_t>() / 16.0;
    };
    Placement out;
    out.at = {coordinate(), coordinate()};
    out.faces_left = from.pick(2) != 0;
    return out;
  };
  for (int step = 0; step < 20 && from.more(); ++step) {
    const Ticks to = now + Ticks(std::min<std::int64_t>(from.time().count, seconds(2).count));
    if (to < now) break;
    if (instances.size() < 8) instances.emplace_back(from.pick(2) != 0 ? hornet : keeper(), InstanceOptions{0, now});
    if (members.size() < 8) members.push_back(crowd.add());
    for (Instance& each : instances) write_any(each, from);
    arena.begin(now, to);
    std::uint32_t id = 0;
    const auto who = [&] {
      return Participant{from.pick(10) == 0 ? from.take<std::uint8_t>() : id++, from.take<std::uint8_t>(),
                         from.pick(6) != 0, place(), place()};
    };
    for (Instance& each : instances)
      if (!arena.add(who(), each) && each.now() < now) (void)each.advance(now - each.now(), [](const Cue&) {});
    for (const Member each : members) (void)arena.add(who(), crowd, each);
    const PlainBox stone{from.pick(2) != 0,
                         CircleShape{from.take<float>(), 0, from.take<std::int8_t>() / 4.0},
                         static_cast<double>(from.take<std::uint8_t>()),
                         from.take<std::uint8_t>(),
                         0,
                         from.time(),
                         1};
    (void)arena.add(who(), {&stone, 1});
    const Arena::Memory memory = arena.memory();
    (void)arena.run(game);
    if (from.pick(8) == 0) arena.recall(memory);
    now = to;
    for (Instance& each : instances) must(each.now() <= now, "nobody is ahead of the step");
  }
  std::vector<Candidate> candidates;
  for (std::uint32_t i = 0; i < 20 && from.more(); ++i)
    candidates.push_back({i, place().at, from.take<float>(), from.take<std::uint8_t>(), from.pick(4) != 0});
  std::vector<Target> found(8);
  for (const ReachDef& reach : hornet.reaches())
    (void)targets(reach, place(), from.take<float>(), 1, candidates, tags, found);
  for (const Instance& each : instances) look_at_all(each);
}

// Engine against reference: a machine and a script out of the bytes.
void agree(Bytes bytes) {
  Source from(bytes);
  const auto seed = from.take<std::uint32_t>();
  test::RandomMachine random(seed);
  const MachineDef definition = test::made(seed, random);
  const Compiled compiled = compile(definition);
  if (!compiled.machine) return;
  const Machine& machine = *compiled.machine;
  std::vector<ScriptEntry> script;
  Ticks at{};
  for (int i = 0; i < 40 && from.more(); ++i) {
    at += Ticks(from.take<std::uint16_t>() * std::int64_t{7'001} * (from.pick(3)));
    ScriptEntry entry{at};
    const auto kind = from.pick(8);
    if (kind == 0) {
      entry.kind = ScriptEntry::Kind::rate;
      entry.value = from.take<std::uint8_t>() / 64.0;
    } else if (kind == 1) {
      entry.kind = ScriptEntry::Kind::freeze;
      entry.duration = milliseconds(from.take<std::uint8_t>());
    } else {
      const InputDef& input = machine.inputs()[from.pick(machine.inputs().size())];
      entry.name = input.name.text;
      entry.kind = input.kind.index() == 4 ? ScriptEntry::Kind::pulse : ScriptEntry::Kind::set;
      switch (input.kind.index()) {
        case 1:
          entry.value = from.take<std::int8_t>();
          break;
        case 2:
          entry.value = static_cast<double>(static_cast<float>(from.take<std::int16_t>()) / 64);
          break;
        case 3:
          entry.value = from.pick(3);
          break;
        default:
          entry.value = from.pick(2);
      }
    }
    script.push_back(entry);
  }
  const Ticks until = at + seconds(2);
  same_by_reference(definition, machine, script, until);
}

}  // namespace mobrin::fuzz
