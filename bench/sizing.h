// What sizing waits for: a branched network proved, published looped ones, streets with three cases, a header
// balanced.
#pragma once

namespace conduit::bench {

void sizing();

}  // namespace conduit::bench
