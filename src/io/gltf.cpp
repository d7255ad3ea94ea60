// glTF over tinygltf: animations' key times and what they move. Its files come from outside, so every index and size is
// checked here.
#include "mobrin/io/gltf.hpp"

#include "mobrin/io/file.hpp"

#include <tiny_gltf.h>

#include <algorithm>
#include <bit>
#include <cmath>
#include <cstring>
#include <filesystem>
#include <fstream>
#include <iterator>
#include <nlohmann/json.hpp>
#include <optional>

namespace mobrin {
namespace {

namespace fs = std::filesystem;

constexpr std::uintmax_t kMostBytes = std::uintmax_t{1} << 30;
constexpr std::size_t kMostKeys = 50'000'000;
constexpr std::size_t kMostZeros = 1'000'000;  // of an accessor without a view, whose size is only said

// Only plain files of a sensible size are read, whatever a uri names.
bool readable(const std::string& path, void*) {
  std::error_code error;
  return fs::is_regular_file(path, error) && fs::file_size(path, error) <= kMostBytes && !error;
}

std::optional<std::string> contents(const std::string& path) {
  if (!readable(path, nullptr)) return std::nullopt;
  std::ifstream in(path, std::ios::binary);
  if (!in) return std::nullopt;
  return std::string(std::istreambuf_iterator<char>(in), std::istreambuf_iterator<char>());
}

// A whole number of so many bytes, the least first.
std::uint32_t little(const unsigned char* bytes, std::size_t count) {
  std::uint32_t out = 0;
  for (std::size_t i = 0; i < count; ++i) out |= std::uint32_t{bytes[i]} << (8 * i);
  return out;
}
std::uint32_t little(const std::string& bytes, std::size_t at) {
  return little(reinterpret_cast<const unsigned char*>(bytes.data()) + at, 4);
}

// How a number stands in an accessor.
struct Component {
  std::size_t size = 0;  // in bytes; 0: none that is read
  bool is_signed = false;
  [[nodiscard]] float number(const unsigned char* from) const {
    const std::uint32_t bits = little(from, size);
    if (size == 4) return std::bit_cast<float>(bits);
    const auto most = static_cast<float>((1u << (8 * size - (is_signed ? 1 : 0))) - 1);
    if (!is_signed) return static_cast<float>(bits) / most;
    const auto value = size == 1 ? std::int32_t{static_cast<std::int8_t>(bits)} : static_cast<std::int16_t>(bits);
    return std::max(static_cast<float>(value) / most, -1.0f);
  }
};
Component component_of(const tinygltf::Accessor& accessor) {
  if (accessor.componentType == TINYGLTF_COMPONENT_TYPE_FLOAT) return {4};
  if (!accessor.normalized) return {};
  switch (accessor.componentType) {
    case TINYGLTF_COMPONENT_TYPE_BYTE:
      return {1, true};
    case TINYGLTF_COMPONENT_TYPE_UNSIGNED_BYTE:
      return {1};
    case TINYGLTF_COMPONENT_TYPE_SHORT:
      return {2, true};
    case TINYGLTF_COMPONENT_TYPE_UNSIGNED_SHORT:
      return {2};
    default:
      return {};
  }
}

// A time that is stored as a 32-bit number: the millisecond or the frame of a common rate that is stored so, where
// there is one. 1.1 s is kept as 1.10000002, and was not meant so.
double meant_seconds(float stored) {
  for (const double parts : {1000.0, 120.0, 144.0, 90.0}) {
    const double meant = std::round(stored * parts) / parts;
    if (static_cast<float>(meant) == stored) return meant;
  }
  return stored;
}

// Who reads JSON by calling himself for each level runs out of room.
bool nests_deeper_than(std::string_view json, int most) {
  int depth = 0;
  bool words = false;
  for (std::size_t i = 0; i < json.size(); ++i) {
    const char c = json[i];
    if (words) {
      if (c == '\\') ++i;
      if (c == '"') words = false;
    } else if (c == '"') {
      words = true;
    } else if (c == '{' || c == '[') {
      if (++depth > most) return true;
    } else if (c == '}' || c == ']') {
      --depth;
    }
  }
  return false;
}

bool is_binary(const std::string& bytes) { return bytes.compare(0, 4, "glTF") == 0; }

// Empty where the version is one that is read; else why not. Older files have another form and fail in other words.
std::string wrong_version(const std::string& bytes) {
  std::string json = bytes;
  if (is_binary(bytes)) {
    if (bytes.size() < 20) return "it is cut short";
    if (little(bytes, 4) != 2) return "its version is " + std::to_string(little(bytes, 4)) + "; only glTF 2 is read";
    const std::uint64_t length = little(bytes, 12);
    if (length > bytes.size() - 20) return "it is cut short";
    json = bytes.substr(20, length);
  }
  const auto parsed = nlohmann::json::parse(json, nullptr, false);
  if (parsed.is_discarded()) return "its JSON is damaged";
  const auto asset = parsed.is_object() ? parsed.find("asset") : parsed.end();
  if (asset == parsed.end() || !asset->is_object() || !asset->contains("version") || !(*asset)["version"].is_string())
    return "it does not say its version";
  const std::string version = (*asset)["version"];
  if (!version.starts_with("2.")) return "its version is " + version + "; only glTF 2 is read";
  for (const char* name : {"EXT_meshopt_compression", "KHR_meshopt_compression"})
    if (const auto needed = parsed.find("extensionsRequired"); needed != parsed.end() && needed->is_array())
      if (std::find(needed->begin(), needed->end(), name) != needed->end())
        return std::string("it needs the extension ") + name + ", which is not read; export it without compression";
  return "";
}

class GltfReader {
 public:
  Result<std::vector<GltfAnimation>> run(const std::string& path) {
    const auto bytes = contents(path);
    const auto refuse = [&](const std::string& why) {
      return Error{"the glTF file \"" + path + "\" cannot be read: " + why, ""};
    };
    if (!bytes) return refuse("it cannot be opened, or is larger than 1 GiB");
    if (const std::string wrong = wrong_version(*bytes); !wrong.empty()) return refuse(wrong);
    if (std::string wrong = parse(*bytes, fs::path(path).parent_path().string()); !wrong.empty()) return refuse(wrong);
    std::vector<GltfAnimation> out;
    for (const tinygltf::Animation& animation : model_.animations) {
      GltfAnimation& seen = out.emplace_back();
      seen.name = animation.name;
      if (std::string wrong = measure(animation, seen); !wrong.empty())
        return refuse("animation " + std::to_string(out.size() - 1) +
                      (animation.name.empty() ? "" : " \"" + animation.name + "\"") + ": " + wrong);
    }
    return out;
  }

 private:
  std::string parse(const std::string& bytes, const std::string& folder) {
    // The JSON of a binary file is its first chunk.
    const std::size_t from = is_binary(bytes) && bytes.size() >= 20 ? 20 : 0;
    const std::size_t size_of_json =
        from == 0 ? bytes.size() : std::min<std::size_t>(little(bytes, 12), bytes.size() - from);
    if (nests_deeper_than(std::string_view(bytes).substr(from, size_of_json), 200))
      return "it nests deeper than 200 levels";
    tinygltf::TinyGLTF loader;
    loader.SetImageLoader([](tinygltf::Image*, const int, std::string*, std::string*, int, int, const unsigned char*,
                             int, void*) { return true; },
                          nullptr);
    loader.SetFsCallbacks(
        {readable, tinygltf::ExpandFilePath, tinygltf::ReadWholeFile, tinygltf::WriteWholeFile, nullptr});
    std::string error, warning;
    bool read = false;
    try {
      const auto size = static_cast<unsigned>(bytes.size());
      read = is_binary(bytes)
                 ? loader.LoadBinaryFromMemory(&model_, &error, &warning,
                                               reinterpret_cast<const unsigned char*>(bytes.data()), size, folder)
                 : loader.LoadASCIIFromString(&model_, &error, &warning, bytes.data(), size, folder);
    } catch (const std::exception& thrown) {
      error = thrown.what();
    }
    if (read) return "";
    while (!error.empty() && (error.back() == '\n' || error.back() == '.')) error.pop_back();
    const std::string first = error.substr(0, error.find('\n'));
    return first.empty() ? "it is damaged" : first;
  }

  // The first and the last key of all samplers that channels use.
  std::string measure(const tinygltf::Animation& animation, GltfAnimation& out) {
    bool any = false;
    for (const tinygltf::AnimationChannel& channel : animation.channels) {
      if (!within(channel.sampler, animation.samplers)) return "a channel has no sampler";
      const int input = animation.samplers[static_cast<std::size_t>(channel.sampler)].input;
      if (!within(input, model_.accessors)) return "a sampler has no key times";
      std::vector<float> times;
      const tinygltf::Accessor& accessor = model_.accessors[static_cast<std::size_t>(input)];
      if (std::string wrong = read_numbers(accessor, 1, "key times", times); !wrong.empty()) return wrong;
      for (std::size_t i = 0; i < times.size(); ++i)
        if (!std::isfinite(times[i]) || times[i] < (i == 0 ? 0 : times[i - 1]))
          return i == 0 && times[i] < 0 ? "its keys begin before 0" : "its key times fall, or are no numbers";
      const double first = meant_seconds(times.front()), last = meant_seconds(times.back());
      out.first = any ? std::min(out.first, first) : first;
      out.last = any ? std::max(out.last, last) : last;
      any = true;
    }
    if (!any) return "it has no channels";
    for (const tinygltf::AnimationChannel& channel : animation.channels)
      if (std::string wrong = add_tracks(animation, channel, out); !wrong.empty()) return wrong;
    return "";
  }

  // The tracks of one channel: a translation's three, or one a weight. REQUIRES: its key times are sound.
  std::string add_tracks(const tinygltf::Animation& animation, const tinygltf::AnimationChannel& channel,
                         GltfAnimation& out) {
    const bool moves = channel.target_path == "translation", weighs = channel.target_path == "weights";
    if ((!moves && !weighs) || !within(channel.target_node, model_.nodes)) return "";
    const tinygltf::AnimationSampler& sampler = animation.samplers[static_cast<std::size_t>(channel.sampler)];
    if (!within(sampler.output, model_.accessors)) return "a sampler has no values";
    std::vector<float> times, values;
    if (std::string wrong =
            read_numbers(model_.accessors[static_cast<std::size_t>(sampler.input)], 1, "key times", times);
        !wrong.empty())
      return wrong;
    if (std::string wrong =
            read_numbers(model_.accessors[static_cast<std::size_t>(sampler.output)], moves ? 3 : 1, "values", values);
        !wrong.empty())
      return wrong;
    const bool cubic = sampler.interpolation == "CUBICSPLINE";
    const std::size_t groups = times.size() * (cubic ? 3 : 1), wide = values.size() / groups;
    if (wide == 0 || wide * groups != values.size() || (moves && wide != 3))
      return "a sampler has " + std::to_string(values.size()) + " values for " + std::to_string(times.size()) + " keys";
    if (!std::all_of(values.begin(), values.end(), [](float value) { return std::isfinite(value); }))
      return "a value is no number";
    const auto node = static_cast<std::size_t>(channel.target_node);
    const std::string& name = model_.nodes[node].name;
    const std::string of = name.empty() ? "node_" + std::to_string(node) : name;
    for (std::size_t part = 0; part < wide; ++part) {
      TrackDef& track = out.tracks.emplace_back();
      track.name = Text(of + (moves       ? std::string("_") + "xyz"[part]
                              : wide == 1 ? "_weight"
                                          : "_weight_" + std::to_string(part)));
      track.curve = cubic ? TrackCurve::cubic : sampler.interpolation == "STEP" ? TrackCurve::step : TrackCurve::linear;
      for (std::size_t k = 0; k < times.size(); ++k) {
        const auto value = [&](std::size_t of_three) {
          return double{values[((cubic ? 3 * k : k) + of_three) * wide + part]};
        };
        TrackKey key;
        key.time = Ticks(std::llround((meant_seconds(times[k]) - out.first) * static_cast<double>(kTicksPerSecond)));
        key.value = value(cubic ? 1 : 0);
        if (cubic) key.in = value(0), key.out = value(2);
        if (!track.keys.empty() && track.keys.back().time == key.time) track.keys.pop_back();  // the later one holds
        track.keys.push_back(key);
      }
    }
    return "";
  }

  template <class Items>
  static bool within(int index, const Items& items) {
    return index >= 0 && static_cast<std::size_t>(index) < items.size();
  }

  // `count` values of `size` bytes each at a place in a view; null where they would reach past it.
  const unsigned char* bytes_of(int view_index, std::size_t offset, std::size_t count, std::size_t size,
                                std::size_t& stride) const {
    if (!within(view_index, model_.bufferViews)) return nullptr;
    const tinygltf::BufferView& view = model_.bufferViews[static_cast<std::size_t>(view_index)];
    if (!within(view.buffer, model_.buffers)) return nullptr;
    const auto& data = model_.buffers[static_cast<std::size_t>(view.buffer)].data;
    stride = view.byteStride == 0 ? size : view.byteStride;
    if (view.byteOffset > data.size() || view.byteLength > data.size() - view.byteOffset) return nullptr;
    if (offset > view.byteLength || stride < size || count > view.byteLength / size) return nullptr;
    if ((count - 1) * stride + size > view.byteLength - offset) return nullptr;
    return data.data() + view.byteOffset + offset;
  }

  // The numbers of an accessor, `wide` an item, of 32 bits or whole ones that stand for -1 to 1 or 0 to 1 (glTF 2.0,
  // 3.11 Animations); why not where they cannot be read. `what` they are, for the reason.
  std::string read_numbers(const tinygltf::Accessor& accessor, std::size_t wide, const std::string& what,
                           std::vector<float>& out) const {
    const Component component = component_of(accessor);
    if (accessor.type != (wide == 1 ? TINYGLTF_TYPE_SCALAR : TINYGLTF_TYPE_VEC3) || component.size == 0)
      return "its " + what + " are no 32-bit numbers, nor normalized ones of fewer bits";
    if (accessor.count == 0 || accessor.count > (accessor.bufferView >= 0 ? kMostKeys : kMostZeros))
      return "it has no keys, or too many";
    const std::string too_short = "its " + what + " reach past their buffer";
    const std::size_t size = component.size * wide;
    const auto take = [&](std::size_t item, const unsigned char* from) {
      for (std::size_t k = 0; k < wide; ++k) out[item * wide + k] = component.number(from + k * component.size);
    };
    std::size_t stride = 0;
    const unsigned char* from = nullptr;
    if (accessor.bufferView >= 0) {
      from = bytes_of(accessor.bufferView, accessor.byteOffset, accessor.count, size, stride);
      if (from == nullptr) return too_short;
    }
    out.assign(accessor.count * wide, 0);  // which they are without a view (glTF 2.0, 5.1.1 accessor.bufferView)
    for (std::size_t i = 0; from != nullptr && i < accessor.count; ++i) take(i, from + i * stride);
    if (!accessor.sparse.isSparse) return "";
    const auto& sparse = accessor.sparse;
    const std::size_t width = sparse.indices.componentType == TINYGLTF_COMPONENT_TYPE_UNSIGNED_BYTE    ? 1
                              : sparse.indices.componentType == TINYGLTF_COMPONENT_TYPE_UNSIGNED_SHORT ? 2
                                                                                                       : 4;
    if (sparse.count < 1) return too_short;
    const auto count = static_cast<std::size_t>(sparse.count);
    std::size_t value_stride = 0;
    const auto offset = [](int value) { return static_cast<std::size_t>(std::max(value, 0)); };
    const unsigned char* indices =
        bytes_of(sparse.indices.bufferView, offset(sparse.indices.byteOffset), count, width, stride);
    const unsigned char* values =
        bytes_of(sparse.values.bufferView, offset(sparse.values.byteOffset), count, size, value_stride);
    if (indices == nullptr || values == nullptr) return too_short;
    for (std::size_t i = 0; i < count; ++i) {
      const std::uint32_t index = little(indices + i * stride, width);
      if (index >= accessor.count) return too_short;
      take(index, values + i * value_stride);
    }
    return "";
  }

  tinygltf::Model model_;
};

}  // namespace

bool looks_like_gltf(const std::string& path) {
  if (!is_plain_file(path)) return false;
  std::ifstream in(path, std::ios::binary);
  char head[4] = {};
  in.read(head, 4);
  if (in.gcount() == 4 && std::memcmp(head, "glTF", 4) == 0) return true;
  std::size_t at = 0;
  const auto shown = static_cast<std::size_t>(in.gcount());
  if (shown >= 3 && std::memcmp(head, "\xef\xbb\xbf", 3) == 0) at = 3;
  while (at < shown && std::strchr(" \t\r\n", head[at]) != nullptr) ++at;
  if (at < shown && head[at] != '{') return false;
  const auto text = contents(path);
  if (!text) return false;
  const std::size_t first = text->find_first_not_of(" \t\r\n", at == 3 ? 3 : 0);
  return first != std::string::npos && (*text)[first] == '{' && text->find("\"asset\"") != std::string::npos;
}

Result<std::vector<GltfAnimation>> read_gltf(const std::string& path) { return GltfReader().run(path); }

}  // namespace mobrin
