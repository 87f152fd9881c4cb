// The pictures under the drawing, read once and off the thread of the window: PNG, JPEG, SVG, or a page of a
// PDF, from a regular file in the model's folder or below it, or inside the model.
#pragma once

#include <QImage>
#include <functional>
#include <map>
#include <memory>

#include "document/document.h"

namespace conduit::desktop {

class PictureStore {
 public:
  /// `ready` is called whenever a picture has been read.
  PictureStore(Document& document, QObject* parent, std::function<void()> ready);
  /// Null when it is being read or cannot be; `why` then says so. `folder` is that of the model's file.
  [[nodiscard]] const QImage* image(const Network& network, const Element& picture, const QString& folder);
  [[nodiscard]] QString why(const Element& picture) const;
  /// A first page that has been read already.
  void have(const std::string& file, QImage image) { images_[{file, 1}] = {std::move(image), {}, false}; }
  void forget();

 private:
  struct Entry {
    QImage image;
    QString why;
    bool reading = false;
  };
  std::function<void()> ready_;
  Background reading_;
  std::map<std::pair<std::string, int>, Entry> images_;
};

/// The path of a picture that a model names: a regular file of a moderate size in `folder` or below it,
/// whatever links lie between. Empty, with a reason, when it is not.
[[nodiscard]] QString placeOfPicture(const QString& folder, const QString& name, QString* why);

/// A picture file read and decoded, for a thread of its own: regular files of a moderate size only. `image`
/// is null with a reason when it cannot be.
struct PictureFile {
  QByteArray bytes;
  QImage image;
  QString why;
};
[[nodiscard]] PictureFile readPictureFile(const QString& path, int page);

/// Reads the bytes of a picture file; null with a reason when they are none. Pages count from 1.
[[nodiscard]] QImage readPicture(const QByteArray& bytes, int page, QString* why);

}  // namespace conduit::desktop
