// One life, lived in several ways at once: alone, cut anywhere, in a crowd, out of a pack, saved, restored and carried
// over on its way. Whatever is done to all of them, all tell the same and come to the same.
#include <memory>

#include "../engine_log.hpp"
#include "../made_machine.hpp"
#include "kit.hpp"
#include "mobrin/core/bindings.hpp"
#include "mobrin/core/carry.hpp"
#include "mobrin/core/crowd.hpp"
#include "mobrin/io/load.hpp"
#include "mobrin/io/record.hpp"
#include "mobrin/io/save.hpp"
#include "mobrin/pack/pack.hpp"

namespace mobrin::fuzz {
namespace {

struct Line {
  Told what;
  std::string text;
  bool operator==(const Line&) const = default;
};
using Lines = std::vector<Line>;

// Side by side.
void show(const Lines& expected, const Lines& told) {
  for (std::size_t i = 0; i < std::max(told.size(), expected.size()); ++i)
    std::fprintf(stderr, "  %-40s  %s\n", i < expected.size() ? expected[i].text.c_str() : "",
                 i < told.size() ? told[i].text.c_str() : "");
}

constexpr const char* kDeeds[] = {"write", "rate", "freeze", "reset", "place", "force", "advance"};

// Machines that never come to rest tell endlessly; so much of them is enough.
constexpr std::size_t kMostLines = 4'000;

// Something that is done, by numbers: handles are a machine's own.
struct Deed {
  enum class Kind : std::uint8_t { write, rate, freeze, reset, place, force, advance };
  Kind kind = Kind::advance;
  std::uint16_t index = 0;  // input or state
  double value = 0;
  Ticks time{};
};

class Life {
 public:
  explicit Life(const char* name) : name_(name) {}
  virtual ~Life() = default;
  Life(const Life&) = delete;
  Life& operator=(const Life&) = delete;
  // Whether it was taken.
  virtual bool does(const Deed& deed, Lines& told) = 0;
  [[nodiscard]] virtual std::uint64_t hash() const = 0;
  [[nodiscard]] virtual std::string text() const = 0;
  // What it hears.
  [[nodiscard]] virtual Listening listening() const { return kAllRecords; }
  // It goes on in another place, or is looked at: nothing that anybody hears of.
  virtual void moves(std::uint32_t) {}
  [[nodiscard]] const char* name() const { return name_; }

 private:
  const char* name_;
};

// Writes to an instance or a member: `to` is called with a handle and a value, or with a pulse.
template <class To>
bool write(const Machine& machine, const Deed& deed, const To& to) {
  const auto index = deed.index;
  switch (machine.inputs()[index].kind.index()) {
    case 0:
      return to.set(handle_at<Input<bool>>(machine, index), deed.value > 0);
    case 1:
      return to.set(handle_at<Input<std::int32_t>>(machine, index), static_cast<std::int32_t>(deed.value));
    case 2:
      return to.set(handle_at<Input<float>>(machine, index), static_cast<float>(deed.value));
    case 3:
      return to.set(handle_at<Input<Choice>>(machine, index),
                    Choice{static_cast<std::uint8_t>(static_cast<std::int32_t>(deed.value) & 3)});
    default:
      return to.pulse(handle_at<Pulse>(machine, index));
  }
}

class Alone : public Life {
 public:
  Alone(const char* name, const Machine& machine) : Life(name), it_(std::make_unique<Instance>(machine)) {}

  bool does(const Deed& deed, Lines& told) override {
    const Machine& machine = it_->machine();
    const State state{machine.serial(), deed.index};
    switch (deed.kind) {
      case Deed::Kind::write:
        return write(machine, deed, Writes{*it_});
      case Deed::Kind::rate:
        return it_->set_rate(deed.value);
      case Deed::Kind::freeze:
        return it_->freeze(deed.time);
      case Deed::Kind::reset:
        it_->reset();
        return true;
      case Deed::Kind::place:
        return it_->place(state, deed.time);
      case Deed::Kind::force:
        return it_->force(state);
      case Deed::Kind::advance:
        break;
    }
    advance(deed.time, told);
    return true;
  }
  [[nodiscard]] std::uint64_t hash() const override { return it_->hash(); }
  [[nodiscard]] std::string text() const override { return save_text(*it_); }

 protected:
  virtual void advance(Ticks dt, Lines& told) { cover(dt, told); }
  void cover(Ticks dt, Lines& told) {
    static std::vector<Cue> memory(2'000);
    CueBuffer cues(memory, listening());
    for (Advanced part{{}, dt, 0, true}; !part.complete() && part.needs == 0 && told.size() < kMostLines;
         cues.clear()) {
      part = it_->advance(part.left, cues);
      for (const Cue& cue : cues) told.push_back({cue.what, test::text_of_record(cue)});
    }
  }
  [[nodiscard]] Instance& it() { return *it_; }
  void becomes(std::unique_ptr<Instance> other) { it_ = std::move(other); }

 private:
  struct Writes {
    Instance& it;
    template <class Handle, class Value>
    bool set(Handle handle, Value value) const {
      return it.set(handle, value) != Written::refused;
    }
    bool pulse(Pulse pulse) const {
      it.pulse(pulse);
      return true;
    }
  };
  std::unique_ptr<Instance> it_;
};

// In pieces, the smallest of one tick; looked at between them.
class Cut : public Alone {
 public:
  using Alone::Alone;
  void moves(std::uint32_t how) override { how_ = how; }

 private:
  void advance(Ticks dt, Lines& told) override {
    for (int piece = 0; piece < 4 && dt.count > 1; ++piece) {
      how_ = how_ * 1'664'525 + 1'013'904'223;
      const Ticks part = how_ % 5 == 0 ? Ticks(1) : Ticks(dt.count / static_cast<std::int64_t>(2 + how_ % 7));
      cover(part, told);
      dt -= part;
      look_at_all(it());
      (void)it().next_wake();
    }
    cover(dt, told);
  }
  std::uint32_t how_ = 0;
};

// Through a save's text, into an instance of the same machine or of the same compiled anew.
class Saved : public Alone {
 public:
  Saved(const Machine& machine, const Machine& again) : Alone("saved", machine), machines_{machine, again} {}
  void moves(std::uint32_t how) override {
    if (how % 3 == 0) return;
    const auto saved = read_save(save_text(it()));
    must(bool(saved), "a save is read");
    auto other = std::make_unique<Instance>(machines_[how % 2]);
    must(load(*saved, *other).empty(), "nothing of a save is lost");
    becomes(std::move(other));
  }

 private:
  Machine machines_[2];
};

class Carried : public Alone {
 public:
  Carried(const Machine& machine, const Machine& again) : Alone("carried over", machine), machines_{machine, again} {}
  void moves(std::uint32_t how) override {
    if (how % 3 == 0) return;
    auto other = std::make_unique<Instance>(machines_[how % 2]);
    must(carry_over(it(), *other).empty(), "nothing is lost on the way to the same machine");
    becomes(std::move(other));
  }

 private:
  Machine machines_[2];
};

// Its block in another instance, which has lived already.
class Restored : public Alone {
 public:
  using Alone::Alone;
  void moves(std::uint32_t how) override {
    if (how % 3 == 0) return;
    auto other = std::make_unique<Instance>(it().machine());
    CueList<8> nobody;
    if (how % 2 == 0) (void)other->advance(seconds(1), nobody);
    must(other->restore(it().block()), "a block is taken");
    becomes(std::move(other));
  }
};

// Rounds are passed over where nobody hears of them.
class HardOfHearing : public Alone {
 public:
  using Alone::Alone;
  [[nodiscard]] Listening listening() const override { return kGameRecords; }
};

// Who is looked on goes no short ways.
class LookedOn : public Alone {
 public:
  LookedOn(const char* name, const Machine& machine) : Alone(name, machine) {
    it().set_trace({[](void* context, const Considered&) { ++*static_cast<std::size_t*>(context); }, &seen_});
  }
  void moves(std::uint32_t) override { it().consider(); }

 private:
  std::size_t seen_ = 0;
};

// What was recorded of it tells the same and comes to the same at any rate, restored on its way or not.
class Recorded : public Alone {
 public:
  explicit Recorded(const Machine& machine) : Alone("recorded", machine), recorder_(it(), "life") {}
  bool does(const Deed& deed, Lines& told) override {
    const bool pulse = deed.kind == Deed::Kind::write && it().machine().inputs()[deed.index].kind.index() == 4;
    if (deed.kind == Deed::Kind::advance)
      happened_ = happened_ && deed.time.count == 0;
    else
      happened_ = happened_ || pulse || deed.kind == Deed::Kind::reset || deed.kind == Deed::Kind::force ||
                  deed.kind == Deed::Kind::place;
    return Alone::does(deed, told);
  }
  void moves(std::uint32_t how) override {
    if (happened_ || how % 3 != 0) return;
    const std::vector<std::byte> now(it().block().begin(), it().block().end());
    CueList<8> nobody;
    if (how % 2 == 0) (void)it().advance(milliseconds(how % 100), nobody);
    must(it().restore(now), "a block is taken");
  }
  void must_replay(std::uint32_t how) {
    Lines last;
    advance(Ticks(how % 2), last);  // nothing waits at its end
    // After a runaway an input that is written to and fro at one instant is one of those that it goes on at.
    if (std::any_of(told_.begin(), told_.end(), [](const Line& line) { return line.what == Told::fault; })) return;
    const LoadedTape tape = load_tape_text(tape_text(recorder_.tape()), "life.tape.yaml");
    must(tape.tape && check_tape(*tape.tape, it().machine(), "").empty(), "what was recorded is a tape");
    Instance again(it().machine());
    Lines told;
    run_tape(again, *tape.tape, {1 + how % 120, {}, kAllRecords}, [&](const Cue& cue) {
      told.push_back({cue.what, test::text_of_record(cue)});
    });
    const bool same = told == told_ && again.hash() == it().hash();
    if (!same) {
      std::fprintf(stderr, "%s\n%s\n%s\n", tape_text(recorder_.tape()).c_str(), save_text(it()).c_str(),
                   save_text(again).c_str());
      show(told_, told);
    }
    must(same, "a tape tells what was told when it was recorded");
  }

 private:
  void advance(Ticks dt, Lines& told) override {
    cover(dt, told);
    told_.insert(told_.end(), told.begin(), told.end());
  }
  Recorder recorder_;
  Lines told_;
  bool happened_ = false;  // a pulse, a reset, a force or a place at this instant: no block says on which side it lies
};

class InCrowd : public Life {
 public:
  explicit InCrowd(const Machine& machine) : Life("in a crowd"), crowd_(machine, {kAllRecords}) {
    neighbours_.push_back(crowd_.add());
    me_ = crowd_.add();
    neighbours_.push_back(crowd_.add());
  }
  bool does(const Deed& deed, Lines& told) override {
    const State state{crowd_.machine().serial(), deed.index};
    switch (deed.kind) {
      case Deed::Kind::write:
        return write(crowd_.machine(), deed, Writes{crowd_, me_});
      case Deed::Kind::rate:
        return crowd_.set_rate(me_, deed.value);
      case Deed::Kind::freeze:
        return crowd_.freeze(me_, deed.time);
      case Deed::Kind::reset:
        return crowd_.reset(me_);
      case Deed::Kind::place:
        return crowd_.place(me_, state, deed.time);
      case Deed::Kind::force:
        return true;  // no call of a crowd
      case Deed::Kind::advance:
        break;
    }
    CrowdCues cues({}, 10'000);
    for (Advanced part{{}, deed.time, 0, true}; !part.complete() && part.needs == 0 && told.size() < kMostLines;
         cues.clear()) {
      part = crowd_.advance(part.left, cues);
      for (const CrowdCue& each : cues)
        if (each.place == me_.place) told.push_back({each.cue.what, test::text_of_record(each.cue)});
    }
    return true;
  }
  [[nodiscard]] std::uint64_t hash() const override { return crowd_.copy(me_)->hash(); }
  [[nodiscard]] std::string text() const override { return save_text(*crowd_.copy(me_)); }
  void moves(std::uint32_t how) override {
    switch (how % 6) {
      case 0:
        crowd_.snapshot(kept_);
        must(crowd_.restore(kept_), "a snapshot is taken back");
        break;
      case 1: {
        std::vector<std::byte> bytes(crowd_.member_size());
        must(crowd_.member_bytes(me_.place, bytes) && crowd_.put_member_bytes(me_.place, bytes), "a member's bytes");
        break;
      }
      case 2:
        (void)crowd_.remove(neighbours_[how / 6 % 2]);
        neighbours_[how / 6 % 2] = crowd_.add();
        break;
      case 3: {
        Crowd other(crowd_.machine(), {kAllRecords});
        must(carry_over(crowd_, other).empty(), "nothing is lost on the way to the same machine");
        crowd_ = std::move(other);
        break;
      }
      default:
        (void)crowd_.shown_changed(), (void)crowd_.shown_all(), (void)crowd_.shown(me_);
    }
  }

 private:
  struct Writes {
    Crowd& crowd;
    Member me;
    template <class Handle, class Value>
    bool set(Handle handle, Value value) const {
      return crowd.set(me, handle, value) != Written::refused;
    }
    bool pulse(Pulse pulse) const { return crowd.pulse(me, pulse) != Written::refused; }
  };
  Crowd crowd_;
  Member me_;
  std::vector<Member> neighbours_;
  std::vector<std::byte> kept_;
};

Deed some_deed(const Machine& machine, Source& from, bool forces, bool places) {
  Deed deed;
  const auto state = [&] { return static_cast<std::uint16_t>(from.pick(machine.states().size())); };
  switch (from.pick(12)) {
    case 0:
    case 1:
    case 2:
    case 3:
      deed.kind = Deed::Kind::write;
      deed.index = static_cast<std::uint16_t>(from.pick(machine.inputs().size()));
      deed.value = from.take<std::int8_t>() / 16.0;
      break;
    case 4:
      deed.kind = Deed::Kind::rate;
      deed.value = from.pick(3) == 0 ? 0 : from.take<std::uint8_t>() / 64.0;
      break;
    case 5:
      deed.kind = Deed::Kind::freeze;
      deed.time = milliseconds(from.take<std::uint8_t>());
      break;
    case 6:
      if (from.pick(3) == 0) deed.kind = Deed::Kind::reset;
      break;
    case 7:
      if (!forces && !places) break;
      deed.kind = forces && (!places || from.pick(2) == 0) ? Deed::Kind::force : Deed::Kind::place;
      deed.index = state();
      deed.time = Ticks(from.take<std::uint16_t>() * std::int64_t{7'001});
      break;
    default:
      deed.time = Ticks(from.take<std::uint16_t>() * std::int64_t{7'001} * from.pick(3) + from.pick(2));
  }
  return deed;
}

// What comes of a deed.
struct Outcome {
  bool taken = false;
  Lines told;
  std::uint64_t hash = 0;
};

Outcome outcome_of(Life& life, const Deed& deed) {
  Outcome out;
  out.taken = life.does(deed, out.told);
  // What is forced is in no save and no snapshot before the next advance.
  if (deed.kind == Deed::Kind::force) (void)life.does({}, out.told);
  // Whether a write that waits may come to something is seen by each in its own way.
  if (deed.kind == Deed::Kind::advance || deed.kind == Deed::Kind::force) out.hash = life.hash();
  return out;
}

Lines heard_by(const Life& life, const Lines& told) {
  Lines out;
  for (const Line& line : told)
    if ((life.listening() & listen_to(line.what)) != 0) out.push_back(line);
  return out;
}

std::string text_of(const Deed& deed) {
  return std::string(kDeeds[static_cast<int>(deed.kind)]) + " " + std::to_string(deed.index) + " " +
         std::to_string(deed.value) + " " + std::to_string(deed.time.count);
}

// All that live, who lives alone before the others; and of them who is recorded.
struct Cast {
  std::vector<std::shared_ptr<Life>> all;
  std::shared_ptr<Recorded> recorded;
};

Cast cast_of(const Machine& machine, const Machine& again, const Machine& packed, bool forces) {
  Cast out;
  const auto add = [&](auto life) { out.all.push_back(std::move(life)); };
  add(std::make_shared<Alone>("alone", machine));
  add(std::make_shared<Alone>("out of a pack", packed));
  add(std::make_shared<Cut>("cut", machine));
  add(std::make_shared<Saved>(machine, again));
  add(std::make_shared<Carried>(machine, again));
  add(std::make_shared<Restored>("restored", machine));
  add(std::make_shared<HardOfHearing>("hard of hearing", machine));
  add(std::make_shared<LookedOn>("looked on", machine));
  if (!forces) add(std::make_shared<InCrowd>(machine));
  out.recorded = std::make_shared<Recorded>(machine);
  add(out.recorded);
  return out;
}

}  // namespace

void lives(Bytes bytes) {
  Source from(bytes);
  const auto seed = from.take<std::uint32_t>();
  const MachineDef definition = test::made(seed, test::RandomMachine(seed));
  const Compiled compiled = compile(definition), again = compile(definition);
  if (!compiled.machine) return;
  const Machine& machine = *compiled.machine;
  const auto packed = load_pack(pack(machine));
  must(bool(packed), "what was packed is loaded");
  const bool forces = from.pick(4) == 0, places = from.pick(2) == 0;
  const Cast cast = cast_of(machine, *again.machine, *packed, forces);
  Life& alone = *cast.all.front();
  std::size_t lines = 0;
  std::vector<std::string> done;
  for (int step = 0; step < 60 && from.more(); ++step) {
    const Deed deed = some_deed(machine, from, forces, places);
    const auto how = from.take<std::uint16_t>();
    done.push_back(text_of(deed) + ", moves " + std::to_string(how));
    const Outcome expected = outcome_of(alone, deed);
    lines += expected.told.size();
    if (lines >= kMostLines) return;
    for (auto each = cast.all.begin() + 1; each != cast.all.end(); ++each) {
      Life& life = **each;
      const Outcome so = outcome_of(life, deed);
      const Lines heard = heard_by(life, expected.told);
      const bool same = so.taken == expected.taken && so.told == heard && so.hash == expected.hash;
      if (!same) {
        std::fprintf(stderr, "%s\n", machine.dump("go").c_str());
        for (const std::string& line : done) std::fprintf(stderr, "  %s\n", line.c_str());
        std::fprintf(stderr, "%s is another then\n%s\n%s\n", life.name(), alone.text().c_str(), life.text().c_str());
        show(heard, so.told);
      }
      must(same, "lives that are lived alike come to the same");
      life.moves(how);
    }
  }
  cast.recorded->must_replay(from.take<std::uint16_t>());
}

}  // namespace mobrin::fuzz
