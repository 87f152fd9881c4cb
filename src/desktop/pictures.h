// Draws the real window with a model into pictures, for the documentation and for a machine without a
// monitor.
#pragma once

#include <QString>

namespace conduit::desktop {

/// Returns the exit status.
int drawPictures(const QString& folder, const QString& model);

}  // namespace conduit::desktop
