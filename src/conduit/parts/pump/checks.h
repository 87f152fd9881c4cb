// What is judged of a pump: speed, place on its curve, suction, driver.
#pragma once

#include "parts/part.h"

namespace conduit::pump {

void check(const Reading& r, Checks& checks);

}  // namespace conduit::pump
