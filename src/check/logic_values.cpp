// Values that are possible and hardly meant so.
#include <algorithm>
#include <cmath>

#include "logic_views.hpp"
#include "mobrin/core/names.hpp"

namespace mobrin::check {
namespace {

constexpr Ticks kLongBuffer = seconds(3);  // a press that waits longer comes as a surprise
constexpr std::int32_t kLittle = 4;        // pixels: in a picture so small a pivot of half a pixel is one

std::string pair_words(double x, double y) {
  return "[" + detail::number_text(x) + ", " + detail::number_text(y) + "]";
}

// A pivot as a share of the picture, where pixels are asked for.
bool is_share(double x, double y) {
  const auto within = [](double value) { return value >= 0 && value <= 1; };
  const auto whole = [](double value) { return value == std::floor(value); };
  return within(x) && within(y) && !(whole(x) && whole(y));
}

}  // namespace

void Logic::values() {
  for (const InputDef& input : def_.inputs) {
    const auto* pulse = std::get_if<PulseInput>(&input.kind);
    if (pulse == nullptr || pulse->buffer <= kLongBuffer) continue;
    const std::string time = detail::number_text(pulse->buffer.to_seconds()) + " s";
    tell(FindingCode::hardly_meant, input.name.place, input.accept,
         "a press of \"" + input.name.text + "\" waits up to " + time + " for a rule that takes it",
         "A buffer is some 100 ms, such as `pulse: 110ms`.", true, input.name.text);
  }
  for (const ClipInfo& clip : machine_.clips()) pivot_as_share(clip);
  hits_nobody();
}

void Logic::pivot_as_share(const ClipInfo& clip) {
  const auto& pivot = clip.marks.pivot;
  if (!pivot || !is_share(pivot->first, pivot->second)) return;
  PixelRect size;
  for (const FrameDef& frame : clip.def.frames)
    if (size.width == 0) size = frame.art.whole.width > 0 ? frame.art.whole : frame.art.rect;
  if (size.width > 0 && std::max(size.width, size.height) <= kLittle) return;
  const std::string pixels = size.width > 0 ? pair_words(std::round(pivot->first * size.width * 2) / 2,
                                                         std::round(pivot->second * size.height * 2) / 2)
                                            : std::string();
  tell(FindingCode::hardly_meant, clip.marks.clip.place, clip.def.accept,
       "the pivot of \"" + clip.def.name.text + "\" is " + pair_words(pivot->first, pivot->second) +
           ", which is less than a pixel from the top left",
       pixels.empty() ? "It is in pixels, not a share of the picture." : "In pixels that share is `" + pixels + "`.",
       false, clip.def.name.text);
}

// Those who are hit are all spared.
void Logic::hits_nobody() {
  const auto compare = [&](Place place, const std::vector<Text>& accept, const std::string& what,
                           const std::vector<std::string>& hits, const std::vector<std::string>& spares) {
    const auto spared = [&](const std::string& tag) {
      return std::find(spares.begin(), spares.end(), tag) != spares.end();
    };
    if (hits.empty() || !std::all_of(hits.begin(), hits.end(), spared)) return;
    tell(FindingCode::hardly_meant, place, accept,
         what + " hits only \"" + hits.front() + "\"" + (hits.size() > 1 ? " and others" : "") +
             ", and spares whom it hits",
         "Take the tag out of `spares:`, or out of `hits:`.", false, hits.front());
  };
  for (const ClipInfo& clip : machine_.clips())
    for (const BoxDef& box : clip.marks.boxes)
      compare(box.place, clip.def.accept, "the box \"" + box.name.text + "\"", box.hits, box.spares);
  for (const ReachDef& reach : def_.reaches)
    compare(reach.name.place, reach.accept, "the reach \"" + reach.name.text + "\"", reach.hits, reach.spares);
}

}  // namespace mobrin::check
