// A game that loads files.
#include <mobrin/draw/sheet.hpp>
#include <mobrin/io/load.hpp>

int main(int argc, char** argv) {
  if (argc < 2) return 2;
  const mobrin::Loaded loaded = mobrin::load_character(argv[1]);
  if (!loaded.machine) return 1;
  return mobrin::draw_sheet(*loaded.machine, {{"no_such_clip"}, ""}, "x.png") ? 1 : 0;
}
