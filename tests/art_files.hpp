// Files of art made byte by byte, so that tests know exactly what is in them.
#pragma once

#include <array>
#include <cstdint>
#include <cstring>
#include <fstream>
#include <string>
#include <vector>

namespace mobrin::test {

using Pixel = std::array<std::uint8_t, 4>;
inline constexpr Pixel kRed{255, 0, 0, 255}, kGreen{0, 255, 0, 255}, kBlue{0, 0, 255, 255}, kClear{0, 0, 0, 0};

inline void write_file(const std::string& path, const std::string& bytes) {
  std::ofstream(path, std::ios::binary) << bytes;
}
inline std::string read_file(const std::string& path) {
  std::ifstream in(path, std::ios::binary);
  return {std::istreambuf_iterator<char>(in), {}};
}

inline std::string big(std::uint32_t value, int bytes = 4) {
  std::string out;
  for (int shift = 8 * (bytes - 1); shift >= 0; shift -= 8) out += static_cast<char>(value >> shift & 0xff);
  return out;
}
inline std::string little(std::uint32_t value, int bytes = 4) {
  std::string out;
  for (int i = 0; i < bytes; ++i) out += static_cast<char>(value >> (8 * i) & 0xff);
  return out;
}

// --- APNG
// -------------------------------------------------------------------------------------------------------------

inline std::uint32_t crc(const std::string& bytes) {
  std::uint32_t sum = 0xffffffff;
  for (const char c : bytes) {
    sum ^= static_cast<unsigned char>(c);
    for (int bit = 0; bit < 8; ++bit) sum = sum >> 1 ^ (sum & 1 ? 0xedb88320 : 0);
  }
  return ~sum;
}
inline std::string chunk(const std::string& type, const std::string& data) {
  return big(static_cast<std::uint32_t>(data.size())) + type + data + big(crc(type + data));
}
// A zlib stream without compression.
inline std::string stored(const std::string& raw) {
  std::uint32_t a = 1, b = 0;
  for (const char c : raw) {
    a = (a + static_cast<unsigned char>(c)) % 65521;
    b = (b + a) % 65521;
  }
  const auto size = static_cast<std::uint32_t>(raw.size());
  return "\x78\x01" + std::string("\x01") + little(size, 2) + little(~size, 2) + raw + big(b << 16 | a);
}

struct ApngPart {
  std::uint32_t x = 0, y = 0, width = 2, height = 2;
  std::uint32_t num = 1, den = 10;
  int dispose = 0, blend = 0;
  std::vector<Pixel> pixels{};
};
inline std::string apng(std::uint32_t width, std::uint32_t height, const std::vector<ApngPart>& parts,
                        std::uint32_t plays, bool other_default = false) {
  const auto pixels = [](std::uint32_t wide, const std::vector<Pixel>& all) {
    std::string raw;
    for (std::size_t i = 0; i < all.size(); ++i) {
      if (i % wide == 0) raw += '\0';
      raw.append(reinterpret_cast<const char*>(all[i].data()), 4);
    }
    return stored(raw);
  };
  std::string out = std::string("\x89PNG\r\n\x1a\n", 8) +
                    chunk("IHDR", big(width) + big(height) + std::string("\x08\x06\0\0\0", 5)) +
                    chunk("acTL", big(static_cast<std::uint32_t>(parts.size())) + big(plays));
  if (other_default) out += chunk("IDAT", pixels(width, std::vector<Pixel>(width * height, kBlue)));
  std::uint32_t sequence = 0;
  for (std::size_t i = 0; i < parts.size(); ++i) {
    const ApngPart& part = parts[i];
    out += chunk("fcTL", big(sequence++) + big(part.width) + big(part.height) + big(part.x) + big(part.y) +
                             big(part.num, 2) + big(part.den, 2) + static_cast<char>(part.dispose) +
                             static_cast<char>(part.blend));
    const std::string data = pixels(part.width, part.pixels);
    out += i == 0 && !other_default ? chunk("IDAT", data) : chunk("fdAT", big(sequence++) + data);
  }
  return out + chunk("IEND", "");
}

// --- GIF
// --------------------------------------------------------------------------------------------------------------

struct GifPart {
  std::uint32_t x = 0, y = 0, width = 2, height = 2;
  std::uint32_t hundredths = 10;
  int dispose = 0;
  std::vector<int> pixels{};  // 0 red, 1 green, 2 blue, 3 transparent
};
// `repeats` -1: the file does not say.
inline std::string gif(std::uint32_t width, std::uint32_t height, const std::vector<GifPart>& parts, int repeats) {
  std::string out = "GIF89a" + little(width, 2) + little(height, 2) + std::string("\xf1\0\0", 3) +
                    std::string("\xff\0\0\0\xff\0\0\0\xff\0\0\0", 12);
  if (repeats >= 0)
    out += "\x21\xff\x0bNETSCAPE2.0" + std::string("\x03\x01", 2) + little(static_cast<std::uint32_t>(repeats), 2) +
           std::string(1, '\0');
  for (const GifPart& part : parts) {
    out += std::string("\x21\xf9\x04", 3) + static_cast<char>(part.dispose << 2 | 1) + little(part.hundredths, 2) +
           std::string("\x03\0", 2);
    out += "\x2c" + little(part.x, 2) + little(part.y, 2) + little(part.width, 2) + little(part.height, 2) +
           std::string(1, '\0');
    // Codes of three bits; one that clears before each pixel, so that the code never grows.
    std::string data;
    std::uint32_t held = 0;
    int bits = 0;
    const auto put = [&](std::uint32_t code) {
      held |= code << bits;
      for (bits += 3; bits >= 8; bits -= 8, held >>= 8) data += static_cast<char>(held & 0xff);
    };
    for (const int pixel : part.pixels) {
      put(4);
      put(static_cast<std::uint32_t>(pixel));
    }
    put(5);
    data += static_cast<char>(held & 0xff);
    out += "\x02";
    for (std::size_t at = 0; at < data.size(); at += 255) {
      const std::string block = data.substr(at, 255);
      out += static_cast<char>(block.size()) + block;
    }
    out += std::string(1, '\0');
  }
  return out + ";";
}

// --- glTF
// -------------------------------------------------------------------------------------------------------------

inline std::string floats(const std::vector<float>& values) {
  std::string out(values.size() * 4, '\0');
  std::memcpy(out.data(), values.data(), out.size());
  return out;
}

struct GltfClip {
  std::string name{};
  std::vector<std::vector<float>> keys{};  // one list a channel
};
// The JSON and the one buffer of a file with these animations, each of translations of node 0.
inline std::pair<std::string, std::string> gltf(const std::vector<GltfClip>& clips, const std::string& buffer_uri) {
  std::string buffer, views, accessors, animations;
  std::size_t count = 0;
  const auto add = [&](const std::string& bytes, std::size_t items, const char* type) {
    if (count > 0) views += ",", accessors += ",";
    views += "{\"buffer\":0,\"byteOffset\":" + std::to_string(buffer.size()) +
             ",\"byteLength\":" + std::to_string(bytes.size()) + "}";
    accessors += "{\"bufferView\":" + std::to_string(count) +
                 ",\"componentType\":5126,\"count\":" + std::to_string(items) + ",\"type\":\"" + type + "\"}";
    buffer += bytes;
    return std::to_string(count++);
  };
  for (const GltfClip& clip : clips) {
    std::string channels, samplers;
    for (std::size_t i = 0; i < clip.keys.size(); ++i) {
      const std::string input = add(floats(clip.keys[i]), clip.keys[i].size(), "SCALAR");
      const std::string output = add(floats(std::vector<float>(clip.keys[i].size() * 3)), clip.keys[i].size(), "VEC3");
      const char* comma = i > 0 ? "," : "";
      samplers += comma + std::string("{\"input\":") + input + ",\"output\":" + output + "}";
      channels += comma + std::string("{\"sampler\":") + std::to_string(i) +
                  ",\"target\":{\"node\":0,\"path\":\"translation\"}}";
    }
    animations += std::string(animations.empty() ? "" : ",") + "{" +
                  (clip.name.empty() ? "" : "\"name\":\"" + clip.name + "\",") + "\"channels\":[" + channels +
                  "],\"samplers\":[" + samplers + "]}";
  }
  return {"{\"asset\":{\"version\":\"2.0\"},\"nodes\":[{}],\"buffers\":[{" +
              (buffer_uri.empty() ? "" : "\"uri\":\"" + buffer_uri + "\",") +
              "\"byteLength\":" + std::to_string(buffer.size()) + "}],\"bufferViews\":[" + views + "],\"accessors\":[" +
              accessors + "],\"animations\":[" + animations + "]}",
          buffer};
}
inline std::string glb(std::pair<std::string, std::string> parts, std::uint32_t version = 2) {
  auto& [json, buffer] = parts;
  while (json.size() % 4 != 0) json += ' ';
  const std::string body = little(static_cast<std::uint32_t>(json.size())) + "JSON" + json +
                           little(static_cast<std::uint32_t>(buffer.size())) + std::string("BIN\0", 4) + buffer;
  return "glTF" + little(version) + little(static_cast<std::uint32_t>(body.size()) + 12) + body;
}

// One animation `open` of the node `lid`, from 0.5 s to 1.5 s: a cubic translation and steps of two weights, which are
// so many numbers as `stored` says.
inline std::string glb_of_a_lid(const std::string& weights, std::size_t count, const std::string& stored) {
  const std::vector<float> keys = {0, 0, 0, 0, 1, 0, 0, 4, 0, 0, -2, 0, 3, 8, 0, 0, 0, 0};  // slope, value, slope
  const std::string buffer = floats({0.5f, 1.5f}) + floats(keys) + weights;
  const auto view = [](std::size_t at, std::size_t size) {
    return "{\"buffer\":0,\"byteOffset\":" + std::to_string(at) + ",\"byteLength\":" + std::to_string(size) + "}";
  };
  const auto accessor = [](int index, std::size_t items, const char* type, const std::string& as) {
    return "{\"bufferView\":" + std::to_string(index) + "," + as + ",\"count\":" + std::to_string(items) +
           ",\"type\":\"" + type + "\"}";
  };
  const std::string as_floats = "\"componentType\":5126";
  return glb(
      {"{\"asset\":{\"version\":\"2.0\"},\"nodes\":[{\"name\":\"lid\"}],\"buffers\":[{\"byteLength\":" +
           std::to_string(buffer.size()) + "}],\"bufferViews\":[" + view(0, 8) + "," + view(8, 72) + "," +
           view(80, weights.size()) + "],\"accessors\":[" + accessor(0, 2, "SCALAR", as_floats) + "," +
           accessor(1, 6, "VEC3", as_floats) + "," + accessor(2, count, "SCALAR", stored) +
           "],\"animations\":[{\"name\":\"open\",\"channels\":[{\"sampler\":0,\"target\":{\"node\":0,\"path\":"
           "\"translation\"}},{\"sampler\":1,\"target\":{\"node\":0,\"path\":\"weights\"}}],\"samplers\":[{\"input\":0,"
           "\"output\":1,\"interpolation\":\"CUBICSPLINE\"},{\"input\":0,\"output\":2,\"interpolation\":\"STEP\"}]}]}",
       buffer});
}
inline std::string glb_of_a_lid(const std::vector<float>& weights = {0, 1, 0.5f, 0.25f}) {
  return glb_of_a_lid(floats(weights), weights.size(), "\"componentType\":5126");
}

}  // namespace mobrin::test
