// Writing and reading packs.
#include "mobrin/pack/pack.hpp"

#include <cstring>
#include <memory>

#include "archive.hpp"
#include "machine/hash.hpp"

namespace mobrin {
namespace {

using detail::MachineData;
using detail::Reader;
using detail::Writer;

constexpr char kMagic[8] = {'M', 'O', 'B', 'R', 'I', 'N', 'P', 'K'};
constexpr char kOldMagic[8] = {'M', 'O', 'B', 'R', 'I', 'N', 'B', 'K'};  // until version 1
constexpr std::uint32_t kVersion = 4;
constexpr std::uint32_t kHasNames = 1;
constexpr std::size_t kHeaderSize = 40;  // magic, version, flags, size, checksum, interface

std::uint64_t hash_of(std::span<const std::byte> bytes) {
  detail::Hash hash;
  hash.add(bytes);
  return hash.value();
}

Error refused(const std::string& why, const std::string& remedy = {}) {
  return Error{"this is no pack that can be loaded: " + why, "", remedy};
}
Error refused_version(std::uint32_t version) {
  return refused("its version is " + std::to_string(version) + ", not " + std::to_string(kVersion),
                 "Pack the machine again with this version's tool.");
}

}  // namespace

std::uint64_t interface_of(const Machine& machine) {
  MachineData m = machine.data();  // archives take what they write to be theirs to change
  Writer writer(true);
  const auto no_places = [](Text& text) { text.place = {}; };
  for (InputDef& input : m.input_defs) {
    no_places(input.name);
    if (auto* choice = std::get_if<ChoiceInput>(&input.kind)) {
      no_places(choice->start);
      for (Text& each : choice->choices) no_places(each);
    }
    fields(writer, input);
  }
  for (const StateInfo& state : m.state_infos) writer.text(state.path);
  for (CueDef& cue : m.cue_defs) {
    writer.text(cue.name.text);
    for (const FieldDef& field : cue.fields) {
      writer.text(field.name.text);
      writer.size(field.value.index());
    }
  }
  for (const std::string& trait : m.trait_names) writer.text(trait);
  const std::uint64_t hash = hash_of(writer.out);
  return hash != 0 ? hash : 1;
}

std::vector<std::byte> pack(const Machine& machine, PackOptions options) {
  MachineData m = machine.data();
  Writer body(options.names);
  if (!options.names) m.files.clear();
  fields(body, m);
  Writer whole(true);
  for (const char c : kMagic) whole.number(static_cast<std::uint8_t>(c));
  whole.number(kVersion);
  whole.number(options.names ? kHasNames : 0);
  whole.number(std::uint64_t{body.out.size()});
  const std::uint64_t interface = interface_of(machine);
  // The checksum is over what follows it.
  Writer rest(true);
  rest.number(interface);
  rest.out.insert(rest.out.end(), body.out.begin(), body.out.end());
  whole.number(hash_of(rest.out));
  whole.out.insert(whole.out.end(), rest.out.begin(), rest.out.end());
  return std::move(whole.out);
}

Result<Machine> load_pack(std::span<const std::byte> bytes, std::uint64_t fits) {
  if (bytes.size() < kHeaderSize) return refused("it is cut short");
  if (std::memcmp(bytes.data(), kOldMagic, sizeof kOldMagic) == 0) return refused_version(1);
  if (std::memcmp(bytes.data(), kMagic, sizeof kMagic) != 0) return refused("it does not begin as one");
  Reader header(bytes.subspan(sizeof kMagic, kHeaderSize - sizeof kMagic), true);
  std::uint32_t version = 0, flags = 0;
  std::uint64_t size = 0, checksum = 0, interface = 0;
  header.number(version), header.number(flags), header.number(size), header.number(checksum), header.number(interface);
  if (version != kVersion) return refused_version(version);
  if (flags > kHasNames) return refused("it has flags that this version does not know");
  if (size != bytes.size() - kHeaderSize)
    return refused(size > bytes.size() - kHeaderSize ? "it is cut short" : "something stands behind its end");
  if (hash_of(bytes.subspan(kHeaderSize - 8)) != checksum) return refused("it is damaged (its checksum is wrong)");
  if (fits != 0 && fits != interface)
    return Error{"this pack does not fit the program: its inputs, states, cues or traits are others", "",
                 "Build the program and the pack from one file."};
  auto machine = std::make_unique<MachineData>();
  Reader reader(bytes.subspan(kHeaderSize), flags == kHasNames);
  fields(reader, *machine);
  if (!reader.sound() || !reader.at_end()) return refused("its tables do not fit together");
  if (const std::string why = detail::unsound(*machine); !why.empty()) return refused(why);
  detail::name_values(*machine);
  machine->serial = detail::new_serial();
  detail::complete(*machine);
  return Machine(detail::SharedTables(machine.release()));
}

std::uint32_t serial_of(const Machine& machine) { return machine.data().serial; }

}  // namespace mobrin
