// Edits of reaches and zones: their numbers change, nothing else.
#include "mobrin/io/shape_edit.hpp"

#include <random>

#include "mobrin/core/parts.hpp"
#include "support.hpp"

namespace mobrin::test {
namespace {

using Of = ShapeEdit::Of;

const char* const kShapes =
    "# By hand.\n"
    "mobrin: 1\n"
    "machine: m\n"
    "reaches:\n"
    "  net: {cone: {tip: [0, 12], length: 26, angle: 75}, hits: [hornet]}   # the swing\n"
    "  wide:\n"
    "    cone:\n"
    "      length: 30   # far\n"
    "      angle: 90\n"
    "  sting: {circle: [-5, -8,  6], spares: [self]}\n"
    "zones:\n"
    "  near: {rect: [-40, 0,\n"
    "                80, 60], tags: [keeper]}\n"
    "states: {s: {}}\n";

struct ShapeRow {
  const char* name;
  ShapeEdit edit;
  const char* from;
  const char* to;
};
const ShapeRow kShapeRows[] = {
    {"ACone",
     {Of::reach, "net", ConeShape{1, 12, 28.5, 80}},
     "tip: [0, 12], length: 26, angle: 75",
     "tip: [1, 12], length: 28.5, angle: 80"},
    {"AConeInLines",
     {Of::reach, "wide", ConeShape{0, 0, 31, 45}},
     "length: 30   # far\n      angle: 90",
     "length: 31   # far\n      angle: 45"},
    {"AConeThatGetsATip",
     {Of::reach, "wide", ConeShape{2, -1, 30, 90}},
     "      angle: 90\n",
     "      angle: 90\n      tip: [2, -1]\n"},
    {"ACircle", {Of::reach, "sting", CircleShape{-5, -7, 6.25}}, "[-5, -8,  6]", "[-5, -7, 6.25]"},
    {"ARectOverTwoLines",
     {Of::zone, "near", RectShape{-50, 0, 100, 60}},
     "[-40, 0,\n                80, 60]",
     "[-50, 0, 100, 60]"},
};

class ShapeEdits : public testing::TestWithParam<ShapeRow> {};
TEST_P(ShapeEdits, ChangeTheirNumbersAndNothingElse) {
  std::string expected = kShapes;
  const std::size_t at = expected.find(GetParam().from);
  ASSERT_NE(at, std::string::npos);
  expected.replace(at, std::string(GetParam().from).size(), GetParam().to);
  const auto edited = edit_shape(kShapes, GetParam().edit);
  ASSERT_TRUE(edited) << edited.error().message;
  EXPECT_EQ(*edited, expected);
  EXPECT_EQ(*edit_shape("\xEF\xBB\xBF" + std::string(kShapes), GetParam().edit), "\xEF\xBB\xBF" + expected);
}
INSTANTIATE_TEST_SUITE_P(All, ShapeEdits, testing::ValuesIn(kShapeRows),
                         [](const auto& row) { return std::string(row.param.name); });

TEST(ShapeEdit, SaysWhyItCannot) {
  const auto refused = [](const std::string& text, const ShapeEdit& edit) {
    const auto out = edit_shape(text, edit);
    return out ? std::string("done") : out.error().message;
  };
  EXPECT_EQ(refused(kShapes, {Of::reach, "near", RectShape{}}), "this file has no reach \"near\"");
  EXPECT_EQ(refused(kShapes, {Of::zone, "net", ConeShape{}}), "this file has no zone \"net\"");
  EXPECT_EQ(refused(kShapes, {Of::reach, "net", CircleShape{}}), "the reach \"net\" has no `circle:`");
  EXPECT_EQ(refused("zones: {near: {rect: &a [0, 0, 1, 1]}, far: {rect: *a}}", {Of::zone, "far", RectShape{0, 0, 2, 2}})
                .substr(0, 14),
            "the zone \"far\"");
  EXPECT_NE(refused("reaches: [", {Of::reach, "net", ConeShape{}}), "done");
  EXPECT_NE(refused("", {Of::reach, "net", ConeShape{}}), "done");
  EXPECT_NE(refused("reaches: {net: {cone: {length: 3}}}", {Of::reach, "net", ConeShape{0, 0, 4, 9}}), "done");
}

// Random shapes, in YAML and JSON: what is read back is what was meant, and the others are as they were.
TEST(ShapeEdit, IsReadBackAsMeant) {
  std::mt19937 random(5);
  const auto pick = [&](int from, int to) {
    return (from * 4 + static_cast<int>(random() % static_cast<unsigned>((to - from) * 4))) / 4.0;
  };
  std::string texts[] = {
      kShapes, R"({"mobrin": 1, "machine": "m", "reaches": {"net": {"cone": {"length": 26, "angle": 75}}, )"
               R"("sting": {"circle": [-5, -8, 6]}}, "zones": {"near": {"rect": [0, 0, 8, 6]}}, "states": {"s": {}}})"};
  for (std::string& text : texts)
    for (int round = 0; round < 200; ++round) {
      ShapeEdit edit;
      if (round % 3 == 0) edit = {Of::reach, "net", ConeShape{pick(-9, 9), pick(-9, 9), pick(1, 40), pick(1, 360)}};
      if (round % 3 == 1) edit = {Of::reach, "sting", CircleShape{pick(-9, 9), pick(-9, 9), pick(1, 20)}};
      if (round % 3 == 2) edit = {Of::zone, "near", RectShape{pick(-9, 9), pick(-9, 9), pick(1, 20), pick(1, 20)}};
      const auto edited = edit_shape(text, edit);
      ASSERT_TRUE(edited) << edited.error().message << text;
      text = *edited;
      const Loaded loaded = load_character_text(text, "m.yaml");
      ASSERT_TRUE(loaded.machine) << joined(loaded.findings) << text;
      const Shape* read = nullptr;
      for (const ReachDef& reach : loaded.machine->reaches())
        if (edit.of == Of::reach && reach.name.text == edit.name) read = &reach.shape;
      for (const ZoneInfo& zone : loaded.machine->zones())
        if (edit.of == Of::zone && zone.def.name.text == edit.name) read = &zone.def.shape;
      ASSERT_NE(read, nullptr);
      ASSERT_EQ(read->index(), edit.shape.index());
      if (const auto* cone = std::get_if<ConeShape>(read)) {
        const auto& meant = std::get<ConeShape>(edit.shape);
        EXPECT_EQ(std::tie(cone->x, cone->y, cone->length, cone->angle),
                  std::tie(meant.x, meant.y, meant.length, meant.angle))
            << text;
      } else if (const auto* circle = std::get_if<CircleShape>(read)) {
        const auto& meant = std::get<CircleShape>(edit.shape);
        EXPECT_EQ(std::tie(circle->x, circle->y, circle->radius), std::tie(meant.x, meant.y, meant.radius)) << text;
      } else {
        const auto &rect = std::get<RectShape>(*read), &meant = std::get<RectShape>(edit.shape);
        EXPECT_EQ(std::tie(rect.left, rect.bottom, rect.width, rect.height),
                  std::tie(meant.left, meant.bottom, meant.width, meant.height))
            << text;
      }
    }
  EXPECT_NE(texts[0].find("# the swing"), std::string::npos);
  EXPECT_NE(texts[0].find("# By hand."), std::string::npos);
}

}  // namespace
}  // namespace mobrin::test
