// A page of the core written to a file for printing: PDF or HTML by the ending of the name.
#pragma once

#include <QString>

#include "say/page.h"

class QImage;

namespace conduit::desktop {

struct PageFile {
  QString title;
  bool wide = false;                // lies on its side
  const QImage* picture = nullptr;  // at its end
};
/// Words that say why it could not be written; empty when it was.
[[nodiscard]] QString writePage(const Page& page, const QString& path, const PageFile& options);

}  // namespace conduit::desktop
