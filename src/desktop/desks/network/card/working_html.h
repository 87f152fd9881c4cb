// A working as the card shows it.
#pragma once

#include <QString>

#include "look/look.h"
#include "say/say.h"

namespace conduit::desktop {

[[nodiscard]] QString workingHtml(const Working& working, const Look& look);

}  // namespace conduit::desktop
