// The command-line tool. Its commands are in the files command_*.cpp.
#include "parameters.hpp"

int main(int argc, char** argv) { return mobrin::cli::run_tool(argc, argv); }
