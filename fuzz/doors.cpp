#include "doors.hpp"

#include <unistd.h>

#include <algorithm>
#include <array>
#include <cmath>
#include <cstdio>
#include <cstdlib>
#include <cstring>
#include <fstream>
#include <limits>
#include <string>
#include <string_view>

#include "../tests/engine_log.hpp"
#include "machine/hash.hpp"
#include "mobrin/check/logic.hpp"
#include "mobrin/check/reference.hpp"
#include "mobrin/contact/arena.hpp"
#include "mobrin/core/bindings.hpp"
#include "mobrin/core/crowd.hpp"
#include "mobrin/io/animation.hpp"
#include "mobrin/io/clip_edit.hpp"
#include "mobrin/io/gltf.hpp"
#include "mobrin/io/image.hpp"
#include "mobrin/io/load.hpp"
#include "mobrin/io/marks_edit.hpp"
#include "mobrin/io/record.hpp"
#include "mobrin/io/save.hpp"
#include "mobrin/io/scene.hpp"
#include "mobrin/io/shape_edit.hpp"
#include "mobrin/pack/pack.hpp"

namespace mobrin::fuzz {
namespace {

using Bytes = std::span<const std::uint8_t>;

void must(bool holds, const char* what) {
  if (holds) return;
  std::fprintf(stderr, "this is not so: %s\n", what);
  std::abort();
}

std::string_view text_of(Bytes bytes) { return {reinterpret_cast<const char*>(bytes.data()), bytes.size()}; }

// Values out of bytes; zeros once they are used up.
class Source {
 public:
  explicit Source(Bytes bytes) : bytes_(bytes) {}
  [[nodiscard]] bool more() const { return at_ < bytes_.size(); }
  template <class T>
  T take() {
    T out{};
    const std::size_t size = std::min(sizeof(T), bytes_.size() - at_);
    if (size > 0) std::memcpy(&out, bytes_.data() + at_, size);
    at_ += size;
    return out;
  }
  // Below `count`.
  std::uint32_t pick(std::size_t count) {
    return count == 0 ? 0 : take<std::uint16_t>() % static_cast<std::uint32_t>(count);
  }
  // Mostly small, sometimes anything.
  Ticks time() {
    const auto kind = take<std::uint8_t>();
    if (kind < 200) return Ticks(take<std::uint16_t>() * std::int64_t{20'000});
    if (kind < 250) return seconds(take<std::uint8_t>());
    return Ticks(take<std::int64_t>());
  }

 private:
  Bytes bytes_;
  std::size_t at_ = 0;
};

// Bytes as a file, for what reads files only.
class File {
 public:
  explicit File(Bytes bytes) : path_("/dev/shm/mobrin_fuzz_" + std::to_string(getpid())) {
    std::ofstream(path_, std::ios::binary)
        .write(reinterpret_cast<const char*>(bytes.data()), static_cast<std::streamsize>(bytes.size()));
  }
  ~File() { std::remove(path_.c_str()); }
  File(const File&) = delete;
  File& operator=(const File&) = delete;
  [[nodiscard]] const std::string& path() const { return path_; }

 private:
  std::string path_;
};

// Writes something to an input, whatever it is. By index: a pack may have no names.
void write_any(Instance& it, Source& from) {
  const Machine& machine = it.machine();
  if (machine.inputs().empty()) return;
  const auto index = static_cast<std::uint16_t>(from.pick(machine.inputs().size()));
  switch (machine.inputs()[index].kind.index()) {
    case 0:
      it.set(handle_at<Input<bool>>(machine, index), (from.take<std::uint8_t>() & 1) != 0);
      break;
    case 1:
      it.set(handle_at<Input<std::int32_t>>(machine, index), from.take<std::int32_t>());
      break;
    case 2:
      it.set(handle_at<Input<float>>(machine, index), from.take<float>());
      break;
    case 3:
      it.set(handle_at<Input<Choice>>(machine, index), Choice{from.take<std::uint8_t>()});
      break;
    default:
      it.pulse(handle_at<Pulse>(machine, index));
  }
}

// What an instance can be asked at any time.
void look_at_all(const Instance& it) {
  std::uint64_t seen = it.hash();
  for (std::uint16_t r = 0; r < it.region_count(); ++r) {
    double weight = 0;
    const ShownLayers layers = it.layers(r);
    for (const Shown& each : layers) weight += each.weight;
    must(layers.size() == 0 || std::abs(weight - 1) < 1e-6, "the weights of a region sum to 1");
    std::array<Shown, 4> some;
    seen += it.blended(r, some) + it.active_path(r).size() + it.picture(r).image;
    if (const auto value = it.track("t", r)) seen += *value > 0 ? 1 : 0;
  }
  seen += static_cast<std::uint64_t>(it.next_change().count) + it.look();
  for (std::uint16_t i = 0; i < it.machine().inputs().size(); ++i) seen += it.input_value(i).index();
  std::array<ActiveBox, 8> some;
  seen += boxes(it, {{1, 2}, true}, some);
  (void)seen;
}

// Five seconds of play, cut anywhere, with a crowd beside it.
void play(const Machine& machine, Source from) {
  if (machine.block_size() > 1'000'000 || machine.most_records_per_instant() > 100'000) return;
  Instance it(machine);
  Crowd crowd(machine);
  const Member twin = crowd.add();
  CrowdCues told({}, 20'000);
  std::size_t records = 0;
  Ticks left = seconds(5);
  for (int step = 0; step < 60 && left.count > 0 && records < 20'000; ++step) {
    const Ticks dt(std::min<std::int64_t>(left.count, from.take<std::uint16_t>() * std::int64_t{6'000} + 60'000'000));
    (void)it.advance(
        dt,
        [&](const Cue& cue) {
          if (++records % 64 == 0) (void)cue.line();
        },
        kAllRecords);
    left -= dt;
    told.clear();
    for (Advanced part = crowd.advance(dt, told); !part.complete() && part.needs <= told.limit();) {
      told.clear();
      part = crowd.advance(part.left, told);
    }
    write_any(it, from);
    (void)crowd.shown(twin);
  }
  look_at_all(it);
}

void machine(Bytes bytes) {
  const Loaded loaded = load_character_text(text_of(bytes), "fuzz/m.yaml");
  for (const Finding& finding : loaded.findings) (void)finding.text();
  if (!loaded.machine) return must(has_errors(loaded.findings), "what is refused says why");
  if (!loaded.has_machine) return;
  (void)logic_findings(*loaded.definition, *loaded.machine);
  const auto packed = load_pack(pack(*loaded.machine));
  must(bool(packed) && packed->fingerprint() == loaded.machine->fingerprint(), "a machine's pack is that machine");
  play(*loaded.machine, Source(bytes.first(bytes.size() / 2)));
}

// The demo's machines, for what comes in beside a machine.
const Machine& keeper() {
  static const Machine machine = [] {
    const char* folder = std::getenv("MOBRIN_DEMO_FOLDER");
    const Loaded loaded = load_character(std::string(folder != nullptr ? folder : MOBRIN_DEMO) + "/keeper.yaml");
    must(loaded.machine.has_value(), "the keeper is there");
    return *loaded.machine;
  }();
  return machine;
}

void tape(Bytes bytes) {
  const LoadedTape loaded = load_tape_text(text_of(bytes), "fuzz/t.yaml");
  if (!loaded.tape) return must(has_errors(loaded.findings), "what is refused says why");
  const std::string written = tape_text(*loaded.tape);
  const LoadedTape again = load_tape_text(written, "fuzz/again.yaml");
  must(again.tape.has_value(), "a tape that was written is read");
  if (has_errors(check_tape(*loaded.tape, keeper(), "t"))) return;
  Instance it(keeper());
  RunOptions options;
  options.until = std::min(loaded.tape->until.value_or(seconds(1)), seconds(5));
  std::size_t records = 0;
  run_tape(it, *loaded.tape, options, [&](const Cue&) { ++records; });
}

void pack_with_right_sum(Bytes bytes) {
  constexpr std::size_t kHead = 40;
  std::vector<std::byte> packed(bytes.size() + (bytes.size() < kHead ? kHead : 0));
  std::memcpy(packed.data(), bytes.data(), bytes.size());
  const auto put = [&](std::size_t at, auto value) {
    for (std::size_t i = 0; i < sizeof value; ++i) packed[at + i] = static_cast<std::byte>(value >> (8 * i));
  };
  std::memcpy(packed.data(), "MOBRINPK", 8);
  put(8, std::uint32_t{2});
  put(12, std::uint32_t{std::to_integer<std::uint32_t>(packed[12]) & 1});
  put(16, std::uint64_t{packed.size() - kHead});
  detail::Hash sum;
  sum.add(std::span<const std::byte>(packed).subspan(kHead - 8));
  put(24, sum.value());
  const auto loaded = load_pack(packed);
  if (!loaded) return must(!loaded.error().text().empty(), "what is refused says why");
  must(bool(load_pack(pack(*loaded))), "what was loaded can be packed and loaded");
  play(*loaded, Source(bytes.last(std::min<std::size_t>(bytes.size(), 200))));
}

void saved(Bytes bytes) {
  const auto save = read_save(text_of(bytes));
  if (!save) return must(!save.error().text().empty(), "what is refused says why");
  Instance it(keeper());
  for (const CarryLoss& loss : load(*save, it)) must(!loss.text.empty(), "a loss says what it is");
  (void)it.advance(seconds(1), [](const Cue&) {});
  look_at_all(it);
}

void png(Bytes bytes) {
  const File file(bytes);
  const auto image = load_png(file.path());
  if (!image) return;
  must(image->rgba.size() ==
           std::size_t{4} * static_cast<std::size_t>(image->width) * static_cast<std::size_t>(image->height),
       "an image has its pixels");
  if (image->rgba.size() < 100'000) must(bool(png_bytes(*image)), "an image that was read is written");
}

void animation(Bytes bytes) {
  const File file(bytes);
  std::size_t frames = 0;
  (void)read_animation(file.path(), [&](const Image& image) { frames += image.rgba.empty() ? 0 : 1; });
}

void gltf(Bytes bytes) {
  const File file(bytes);
  if (looks_like_gltf(file.path())) (void)read_gltf(file.path());
}

void expression(Bytes bytes) {
  if (bytes.size() > 4'000) return;
  MachineBuilder builder("m");
  builder.input("b", BoolInput{}).input("n", IntInput{0, -9, 9}).input("x", FloatInput{0, -1, 1}).pulse("p");
  builder.input("h", ChoiceInput{{"one", "two"}});
  StateDef a, c;
  a.name = "a";
  GoDef go;
  go.when = std::string(text_of(bytes));
  go.to = "c";
  a.go.push_back(go);
  c.name = "c";
  builder.state(a).state(c);
  const Compiled compiled = builder.initial("a").build();
  if (!compiled.machine) return must(!compiled.findings.empty(), "what is refused says why");
  play(*compiled.machine, Source(bytes));
}

void scene(Bytes bytes) {
  const File file(bytes);
  const LoadedScene loaded = load_scene(file.path());
  must(loaded.scene.has_value() || has_errors(loaded.findings), "what is refused says why");
}

// An edit, then the text it is made to.
void edits(Bytes bytes) {
  Source from(bytes);
  MarkEdit edit;
  edit.kind = static_cast<MarkEdit::Kind>(from.pick(static_cast<std::size_t>(MarkEdit::Kind::set_fields) + 1));
  edit.index = from.take<std::uint8_t>();
  const std::string_view all = text_of(bytes);
  std::string* const words[] = {&edit.clip, &edit.place, &edit.name, &edit.to};
  std::size_t at = std::min<std::size_t>(3, all.size());
  for (std::string* word : words) {
    const std::size_t end = std::min(all.find('\n', at), all.size());
    *word = std::string(all.substr(at, end - at));
    at = std::min(end + 1, all.size());
  }
  const auto edited = edit_marks(all.substr(at), edit);
  if (!edited) return must(!edited.error().text().empty(), "what is refused says why");
  (void)load_character_text(*edited, "fuzz/marks.yaml");
}

// Every call of an instance and a crowd, with any arguments, in any order.
void calls(Bytes bytes) {
  Source from(bytes);
  test::RandomMachine random(from.take<std::uint16_t>());
  const Compiled compiled = compile(random.make());
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

// Engine against reference: a machine and a script out of the bytes.
void agree(Bytes bytes) {
  Source from(bytes);
  test::RandomMachine random(from.take<std::uint32_t>());
  const MachineDef definition = random.make();
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
  const auto told = test::run_engine(machine, script, until);
  if (told.size() <= test::kMostRecords)
    must(told == run_reference(definition, script, until), "engine and reference agree");
}

constexpr Door kDoors[] = {
    {"machine", machine},     {"tape", tape},  {"pack", pack_with_right_sum}, {"save", saved},  {"png", png},
    {"animation", animation}, {"gltf", gltf},  {"expression", expression},    {"scene", scene}, {"marks", edits},
    {"calls", calls},         {"agree", agree}};

}  // namespace

std::span<const Door> doors() { return kDoors; }

}  // namespace mobrin::fuzz
