#include "plan/picture_store.h"

#include <QBuffer>
#include <QDir>
#include <QFile>
#include <QImageReader>
#include <QPainter>
#include <QPdfDocument>
#include <QSvgRenderer>
#include <algorithm>
#include <cmath>

namespace conduit::desktop {
namespace {

constexpr int longestSide = 4000;  // px; more than a screen shows, and still light enough to move
constexpr qint64 largestFile = qint64{200} << 20;

QSize fitted(QSizeF size) {
  const double longest = std::max({size.width(), size.height(), 1.0});
  return (size * (longestSide / longest)).toSize().expandedTo({1, 1});
}

std::pair<std::string, int> keyOf(const Element& picture) {
  const auto* file = picture.values.get<std::string>("file");
  const Given* page = picture.values.get<Given>("page");
  return {file ? *file : std::string(), page ? static_cast<int>(std::lround(page->value)) : 1};
}

}  // namespace

QImage readPicture(const QByteArray& bytes, int page, QString* why) {
  auto failed = [&](const QString& words) {
    if (why) *why = words;
    return QImage();
  };
  if (bytes.startsWith("%PDF")) {
    QBuffer buffer;
    buffer.setData(bytes);
    buffer.open(QIODevice::ReadOnly);
    QPdfDocument pdf(nullptr);
    pdf.load(&buffer);
    if (pdf.status() != QPdfDocument::Status::Ready) return failed(QObject::tr("the PDF cannot be read"));
    if (page < 1 || page > pdf.pageCount()) return failed(QObject::tr("the PDF has %1 pages").arg(pdf.pageCount()));
    const QImage drawn = pdf.render(page - 1, fitted(pdf.pagePointSize(page - 1)));
    QImage paper(drawn.size(), QImage::Format_RGB32);
    paper.fill(Qt::white);
    QPainter(&paper).drawImage(0, 0, drawn);
    return paper;
  }
  const QByteArray head = bytes.left(2000).trimmed();
  if (head.contains("<svg") || (head.startsWith("<?xml") && bytes.contains("<svg"))) {
    QSvgRenderer svg(bytes);
    if (!svg.isValid()) return failed(QObject::tr("the SVG cannot be read"));
    QImage drawn(fitted(svg.defaultSize()), QImage::Format_ARGB32_Premultiplied);
    drawn.fill(Qt::transparent);
    QPainter p(&drawn);
    svg.render(&p);
    return drawn;
  }
  QBuffer buffer;
  buffer.setData(bytes);
  buffer.open(QIODevice::ReadOnly);
  QImageReader reader(&buffer);
  reader.setAutoTransform(true);
  const QSize size = reader.size();
  if (size.isValid() && (size.width() > longestSide || size.height() > longestSide)) reader.setScaledSize(fitted(size));
  const QImage image = reader.read();
  if (image.isNull()) return failed(QObject::tr("this is no picture: %1").arg(reader.errorString()));
  return image;
}

const QImage* PictureStore::image(const Network& network, const Element& picture, const QString& folder) {
  const auto key = keyOf(picture);
  if (key.first.empty()) return nullptr;
  auto [it, fresh] = images_.try_emplace(key);
  if (fresh) {
    const auto& files = network.enclosed().files;
    QByteArray bytes;
    if (const auto inside = files.find(key.first); inside != files.end()) {
      bytes = QByteArray::fromStdString(inside->second);
    } else {
      QFile file(QDir(folder.isEmpty() ? QDir::currentPath() : folder).filePath(QString::fromStdString(key.first)));
      if (file.size() > largestFile) it->second.why = QObject::tr("the picture is larger than 200 MB");
      else if (file.open(QIODevice::ReadOnly)) bytes = file.readAll();
      else it->second.why = QObject::tr("%1 cannot be read").arg(QString::fromStdString(key.first));
    }
    if (!bytes.isEmpty()) it->second.image = readPicture(bytes, key.second, &it->second.why);
  }
  return it->second.image.isNull() ? nullptr : &it->second.image;
}

QString PictureStore::why(const Element& picture) const {
  const auto it = images_.find(keyOf(picture));
  return it == images_.end() ? QString() : it->second.why;
}

}  // namespace conduit::desktop
