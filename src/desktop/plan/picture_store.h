// The pictures under the drawing, read once: PNG, JPEG, SVG, or a page of a PDF, from a file beside the model or inside it.
#pragma once

#include <QImage>
#include <map>

#include "network/network.h"

namespace conduit::desktop {

class PictureStore {
 public:
  /// Null when it cannot be read; `why` then says so. `folder` is that of the model's file.
  [[nodiscard]] const QImage* image(const Network& network, const Element& picture, const QString& folder);
  [[nodiscard]] QString why(const Element& picture) const;
  void forget() { images_.clear(); }

 private:
  struct Entry {
    QImage image;
    QString why;
  };
  std::map<std::pair<std::string, int>, Entry> images_;
};

/// Reads the bytes of a picture file; null with a reason when they are none. Pages count from 1.
[[nodiscard]] QImage readPicture(const QByteArray& bytes, int page, QString* why);

}  // namespace conduit::desktop
