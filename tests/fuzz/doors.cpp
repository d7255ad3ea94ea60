// The list of doors. A new one is a function in one of the files beside it, a line in kit.hpp, one here, one in
// coverage.py, and seeds in seeds/NAME or by gather.py.
#include "doors.hpp"

#include "kit.hpp"

namespace mobrin::fuzz {
namespace {

constexpr Door kDoors[] = {
    {"machine", machine},
    {"art", art},
    {"imports", imports},
    {"tape", tape},
    {"pack", pack_with_right_sum},
    {"save", saved},
    {"png", png},
    {"animation", animation},
    {"webp", webp},
    {"gltf", gltf},
    {"expression", expression},
    {"scene", scene},
    {"marks", mark_edits},
    {"clips", clip_edits},
    {"calls", calls},
    {"lives", lives},
    {"meetings", meetings},
    {"agree", agree},
    {"definitions", definitions},
    // The live page: what the page asks, what it asks of files, what a game sends to it and is sent by it.
    {"page_commands", page_commands},
    {"page_files", page_files},
    {"game_messages", game_messages},
    {"page_messages", page_messages},
};

}  // namespace

std::span<const Door> doors() { return kDoors; }

}  // namespace mobrin::fuzz
