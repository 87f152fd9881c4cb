#include <exception>
#include <iostream>

#include "command_line.h"

int main(int argc, char** argv) {
  try {
    return conduit::cli::run({argv + 1, argv + argc}, std::cout, std::cerr);
  } catch (const std::exception& fault) {
    std::cerr << "level-conduit-cli: " << fault.what() << ". Your file is unchanged.\n";
    return conduit::cli::internalFault;
  }
}
