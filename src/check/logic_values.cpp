// Values that are possible and hardly meant so.
#include <algorithm>
#include <cmath>

#include "logic_views.hpp"
#include "mobrin/core/names.hpp"

namespace mobrin::check {
namespace {

constexpr Ticks kLongBuffer = seconds(3);  // a press that waits longer comes as a surprise
constexpr std::int32_t kLittle = 4;        // pixels: in a picture so small a pivot of half a pixel is one
constexpr double kTinySensor = 4;          // pixels: who senses that little meant world units,
constexpr double kTinyBox = 1;             // who is that little, shares of the picture,
constexpr double kTinyAngle = 6.3;         // degrees: and whose cone opens that little, radians
constexpr double kSlowest = 0.5;           // frames a second: seconds a frame were meant
constexpr double kFastest = 8;             // times the pace of a clip: percent were meant

std::string pair_words(double x, double y) {
  return "[" + detail::number_text(x) + ", " + detail::number_text(y) + "]";
}

// A pivot as a share of the picture, where pixels are asked for.
bool is_share(double x, double y) {
  const auto within = [](double value) { return value >= 0 && value <= 1; };
  const auto whole = [](double value) { return value == std::floor(value); };
  return within(x) && within(y) && !(whole(x) && whole(y));
}

// How wide or high a shape is, whichever is more.
double extent_of(const Shape& shape) {
  if (const auto* rect = std::get_if<RectShape>(&shape)) return std::max(rect->width, rect->height);
  if (const auto* circle = std::get_if<CircleShape>(&shape)) return 2 * circle->radius;
  return std::get<ConeShape>(shape).length;
}

std::string pixels_words(double pixels) { return detail::number_text(pixels) + (pixels == 1 ? " pixel" : " pixels"); }

}  // namespace

void Logic::values() {
  values_of_inputs();
  values_of_times();
  values_of_shapes();
  for (const ClipInfo& clip : machine_.clips()) pivot_as_share(clip);
  hits_nobody();
}

void Logic::values_of_inputs() {
  for (const InputDef& input : def_.inputs) {
    const auto doubt = [&](const std::string& what, const std::string& remedy, bool hint = false) {
      tell(FindingCode::hardly_meant, input.name.place, input.accept, "the input \"" + input.name.text + "\" " + what,
           remedy, hint, input.name.text);
    };
    const auto* pulse = std::get_if<PulseInput>(&input.kind);
    const auto* whole = std::get_if<IntInput>(&input.kind);
    const auto* number = std::get_if<FloatInput>(&input.kind);
    if (pulse != nullptr && pulse->buffer > kLongBuffer)
      doubt("waits up to " + detail::number_text(pulse->buffer.to_seconds()) + " s for a rule that takes it",
            "A buffer is some 100 ms, such as `pulse: 110ms`.", true);
    else if ((whole != nullptr && whole->min == whole->max) || (number != nullptr && number->min == number->max))
      doubt("can only be " + (whole != nullptr ? std::to_string(whole->min) : detail::number_text(number->min)),
            "Let `max:` be above `min:`.");
    else if (number != nullptr && number->grain > number->max - number->min)
      doubt("is rounded to multiples of " + detail::number_text(number->grain) + ", more than its range",
            "`grain:` is the smallest step that matters, such as 0.05.");
  }
}

void Logic::values_of_times() {
  for (const ClipDef& clip : def_.clips) {
    const double rate = static_cast<double>(clip.fps.num) / static_cast<double>(clip.fps.den);
    if (clip.frames.size() > 1 && clip.fps.num > 0 && rate < kSlowest)
      tell(FindingCode::hardly_meant, clip.name.place, clip.accept,
           "a frame of \"" + clip.name.text + "\" shows for " + detail::number_text(1 / rate) + " s",
           "`fps:` is frames a second: seconds a frame are `fps: " + detail::number_text(std::round(10 / rate) / 10) +
               "`, or `times:`.",
           false, clip.name.text);
  }
  for (const StateView& view : views_)
    if (const auto speed = constant_speed(*view.def); speed && std::abs(*speed) > kFastest)
      tell(FindingCode::hardly_meant, view.def->speed.place, view.def->accept,
           "\"" + view.path + "\" plays " + detail::number_text(std::abs(*speed)) + " times as fast",
           "1 is the clip's own pace; it is no percentage.", false, view.path);
}

void Logic::values_of_shapes() {
  const auto compare = [&](Place place, const std::vector<Text>& accept, const std::string& what,
                           const std::string& name, const Shape& shape, double least) {
    const auto* cone = std::get_if<ConeShape>(&shape);
    if (cone != nullptr && cone->angle < kTinyAngle)
      return tell(FindingCode::hardly_meant, place, accept,
                  what + " \"" + name + "\" opens by " + detail::number_text(cone->angle) + " degrees",
                  "Angles are in degrees, such as `angle: 75`.", false, name);
    if (extent_of(shape) > least) return;
    tell(FindingCode::hardly_meant, place, accept,
         what + " \"" + name + "\" is no larger than " + pixels_words(extent_of(shape)),
         "Shapes are in pixels, of which a world unit has " + detail::number_text(def_.unit) + ".", false, name);
  };
  for (const ReachDef& reach : def_.reaches)
    compare(reach.name.place, reach.accept, "the reach", reach.name.text, reach.shape, kTinySensor);
  for (const ZoneDef& zone : def_.zones)
    compare(zone.name.place, {}, "the zone", zone.name.text, zone.shape, kTinySensor);
  for (const ClipInfo& clip : machine_.clips())
    for (const BoxDef& box : clip.marks.boxes)
      compare(box.place, clip.def.accept, "the box", box.name.text, box.shape, kTinyBox);
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
