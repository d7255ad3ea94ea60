// Draws docs/screenshots/weights.png: the weights of a walker's five clips over the plane of directions.
#include <array>
#include <cstdio>

#include "mobrin/core/instance.hpp"
#include "mobrin/io/image.hpp"
#include "mobrin/io/load.hpp"

int main(int argc, char** argv) {
  if (argc != 2) return 2;
  const mobrin::Loaded loaded = mobrin::load_character_text(
      "mobrin: 1\nmachine: walker\ninputs: {ahead: {float: 0}, right: {float: 0}}\n"
      "clips: {stand: {frames: [0], fps: 4, play: loop}, walk: {frames: [0], fps: 4, play: loop}, side: {frames: [0], "
      "fps: 4, play: loop}}\n"
      "states: {s: {blend: {x: right, y: ahead, points: [{at: [0, 0], clip: stand}, {at: [0, 1], clip: walk}, {at: [1, "
      "0], clip: side}, "
      "{at: [0, -1], clip: walk, backward: true}, {at: [-1, 0], clip: side, mirror: true}]}}}\n",
      "walker.yaml");
  if (!loaded.machine) return 1;
  mobrin::Instance it(*loaded.machine);
  const auto right = loaded.machine->input<float>("right"), ahead = loaded.machine->input<float>("ahead");
  constexpr int kSide = 240, kGap = 16;
  mobrin::Image picture{5 * kSide + 6 * kGap, kSide + 2 * kGap, {}};
  picture.rgba.assign(static_cast<std::size_t>(picture.width) * static_cast<std::size_t>(picture.height) * 4, 251);
  for (int y = 0; y < kSide; ++y)
    for (int x = 0; x < kSide; ++x) {
      it.set(*right, static_cast<float>(-1.5 + 3.0 * x / (kSide - 1)));
      it.set(*ahead, static_cast<float>(1.5 - 3.0 * y / (kSide - 1)));
      (void)it.advance(mobrin::Ticks(0), [](const mobrin::Cue&) {});
      std::array<mobrin::Shown, 5> all{};
      it.blended(0, all);
      for (int i = 0; i < 5; ++i) {
        // Ten steps of ink, so that the lines of equal weight are seen.
        const int ink = static_cast<int>(all[static_cast<std::size_t>(i)].weight * 10 + 1e-9);
        std::uint8_t* to =
            picture.rgba.data() + 4 * (static_cast<std::size_t>(kGap + y) * static_cast<std::size_t>(picture.width) +
                                       static_cast<std::size_t>(kGap + i * (kSide + kGap) + x));
        const int from[3] = {241, 239, 233}, full[3] = {13, 80, 110};
        for (int c = 0; c < 3; ++c) to[c] = static_cast<std::uint8_t>(from[c] + (full[c] - from[c]) * ink / 10);
        to[3] = 255;
      }
    }
  if (const auto written = mobrin::write_png(picture, argv[1]); !written) {
    std::fprintf(stderr, "%s\n", written.error().text().c_str());
    return 1;
  }
  return 0;
}
