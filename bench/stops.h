// How long what the desktop does in the background takes to end after it was asked to: streets of 482 lines
// in three cases, a branched network of 500.
#pragma once

namespace conduit::bench {

void stops();

}  // namespace conduit::bench
