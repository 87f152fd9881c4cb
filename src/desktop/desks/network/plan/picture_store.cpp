#include "plan/picture_store.h"

#include <QBuffer>
#include <QDir>
#include <QFile>
#include <QFileInfo>
#include <QImageReader>
#include <QPainter>
#include <QPdfDocument>
#include <QSvgRenderer>
#include <QXmlStreamReader>
#include <algorithm>
#include <cmath>

#include "fields/keys.h"
#include "json/limits.h"

namespace conduit::desktop {
namespace {

constexpr int longestSide = 4000;  // px; more than a screen shows, and still light enough to move
constexpr qint64 largestFile = static_cast<qint64>(enclosedBytesMost);
constexpr qint64 mostPixels = 100'000'000;

QSize fitted(QSizeF size) {
  const double longest = std::max({size.width(), size.height(), 1.0});
  return (size * (longestSide / longest)).toSize().expandedTo({1, 1});
}

std::pair<std::string, int> keyOf(const Element& picture) {
  const auto* file = picture.text(key::file);
  const Given* page = picture.given("page");
  return {file ? *file : std::string(), page ? static_cast<int>(std::lround(page->value)) : 1};
}

// What an SVG would fetch from elsewhere, or is of its own making beyond drawing; empty when it draws itself
// alone.
QString outsideOf(const QByteArray& svg) {
  const auto leadsOut = [](QStringView target) {
    return !target.trimmed().startsWith(u'#') &&
           !target.trimmed().startsWith(QLatin1String("data:"), Qt::CaseInsensitive);
  };
  const auto styleLeadsOut = [&](const QString& style) {
    if (style.contains("@import", Qt::CaseInsensitive)) return true;
    for (qsizetype at = style.indexOf("url(", 0, Qt::CaseInsensitive); at >= 0;
         at = style.indexOf("url(", at + 4, Qt::CaseInsensitive)) {
      QStringView target = QStringView(style).mid(at + 4).trimmed();
      if (target.startsWith(u'"') || target.startsWith(u'\'')) target = target.mid(1);
      if (leadsOut(target)) return true;
    }
    return false;
  };
  QXmlStreamReader xml(svg);
  while (!xml.atEnd()) {
    xml.readNext();
    if (xml.isDTD() && !xml.entityDeclarations().isEmpty()) return QObject::tr("declares entities");
    if (xml.isCharacters() && styleLeadsOut(xml.text().toString()))
      return QObject::tr("contains external references");
    if (!xml.isStartElement()) continue;
    for (const QXmlStreamAttribute& a : xml.attributes()) {
      const bool reference = a.name() == QLatin1String("href") && xml.name() != QLatin1String("a");
      if ((reference && leadsOut(a.value())) || styleLeadsOut(a.value().toString()))
        return QObject::tr("contains external references");
    }
  }
  return {};
}

}  // namespace

QString placeOfPicture(const QString& folder, const QString& name, QString* why) {
  const auto failed = [&](const QString& words) {
    *why = words;
    return QString();
  };
  if (folder.isEmpty())
    return failed(QObject::tr("the model has no folder yet; save it first, or place the picture again"));
  if (QDir::isAbsolutePath(name) || QDir::cleanPath(name).startsWith(".."))
    return failed(QObject::tr("a picture must be in the model's folder or a subfolder, or embedded"));
  const QFileInfo file(QDir(folder).filePath(name));
  if (!file.exists()) return failed(QObject::tr("%1 not found").arg(name));
  const QString real = file.canonicalFilePath(), home = QDir(folder).canonicalPath();
  if (home.isEmpty() || !real.startsWith(home.endsWith('/') ? home : home + '/'))
    return failed(QObject::tr("a link points outside the model's folder"));
  if (!QFileInfo(real).isFile()) return failed(QObject::tr("%1 is not a regular file").arg(name));
  if (QFileInfo(real).size() > largestFile)
    return failed(QObject::tr("the picture is larger than %1 MiB").arg(largestFile >> 20));
  return real;
}

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
    if (page < 1 || page > pdf.pageCount())
      return failed(QObject::tr("the PDF has %1 pages").arg(pdf.pageCount()));
    const QImage drawn = pdf.render(page - 1, fitted(pdf.pagePointSize(page - 1)));
    QImage paper(drawn.size(), QImage::Format_RGB32);
    paper.fill(Qt::white);
    QPainter(&paper).drawImage(0, 0, drawn);
    return paper;
  }
  const QByteArray head = bytes.left(2000).trimmed();
  if (head.contains("<svg") || (head.startsWith("<?xml") && bytes.contains("<svg"))) {
    if (const QString outside = outsideOf(bytes); !outside.isEmpty())
      return failed(QObject::tr("the SVG %1").arg(outside));
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
  if (size.isValid() && qint64{size.width()} * size.height() > mostPixels)
    return failed(QObject::tr("the picture has more than %1 million pixels").arg(mostPixels / 1000000));
  if (size.isValid() && (size.width() > longestSide || size.height() > longestSide))
    reader.setScaledSize(fitted(size));
  const QImage image = reader.read();
  if (image.isNull()) return failed(QObject::tr("not a picture: %1").arg(reader.errorString()));
  return image;
}

PictureFile readPictureFile(const QString& path, int page) {
  PictureFile read;
  QFile file(path);
  if (QFileInfo(path).exists() && !QFileInfo(path).isFile()) {
    read.why = QObject::tr("%1 is not a regular file").arg(path);
  } else if (!file.open(QIODevice::ReadOnly)) {
    read.why = QObject::tr("%1 cannot be read: %2").arg(QFileInfo(path).fileName(), file.errorString());
  } else if (read.bytes = file.read(largestFile + 1); read.bytes.size() > largestFile) {
    read.bytes.clear();
    read.why = QObject::tr("the picture %1 is larger than %2 MiB")
                   .arg(QFileInfo(path).fileName())
                   .arg(largestFile >> 20);
  } else if (read.image = readPicture(read.bytes, page, &read.why); read.image.isNull()) {
    read.why = QObject::tr("%1: %2").arg(QFileInfo(path).fileName(), read.why);
  }
  return read;
}

PictureStore::PictureStore(Document& document, QObject* parent, std::function<void()> ready)
    : ready_(std::move(ready)), reading_(QObject::tr("The reading of pictures"), parent) {
  document.watch(reading_);
  QObject::connect(&reading_, &Background::failed, &reading_, [this](const QString& why) {
    for (auto& [key, entry] : images_)
      if (entry.reading) entry = {{}, why, false};
    ready_();
  });
}

void PictureStore::forget() {
  reading_.leave();
  images_.clear();
}

const QImage* PictureStore::image(const Network& network, const Element& picture, const QString& folder) {
  const auto key = keyOf(picture);
  if (key.first.empty()) return nullptr;
  auto [it, fresh] = images_.try_emplace(key);
  Entry& entry = it->second;
  if (fresh) {
    entry.why = QObject::tr("reading …");
    QByteArray bytes;
    QString path;
    if (const auto inside = network.enclosed().files.find(key.first);
        inside != network.enclosed().files.end())
      bytes = QByteArray::fromStdString(inside->second);
    else path = placeOfPicture(folder, QString::fromStdString(key.first), &entry.why);
    if (!bytes.isEmpty() || !path.isEmpty()) {
      entry.reading = true;
      reading_.add([this, key, bytes, path](const Background::Post& post, const std::stop_token& stop) {
        if (stop.stop_requested()) return;
        PictureFile read;
        if (path.isEmpty()) read.image = readPicture(bytes, key.second, &read.why);
        else read = readPictureFile(path, key.second);
        post([this, key, read] {
          images_[key] = {read.image, read.why, false};
          ready_();
        });
      });
    }
  }
  return entry.image.isNull() ? nullptr : &entry.image;
}

QString PictureStore::why(const Element& picture) const {
  const auto it = images_.find(keyOf(picture));
  return it == images_.end() ? QString() : it->second.why;
}

}  // namespace conduit::desktop
