#include "look/page_file.h"

#include <QFileInfo>
#include <QImage>
#include <QObject>
#include <QPageLayout>
#include <QPrinter>
#include <QSaveFile>
#include <QTextDocument>
#include <QUrl>

#include "look/look.h"

namespace conduit::desktop {

QString writePage(const Page& page, const QString& path, const PageFile& options) {
  const std::string body = html(page, {.quietInk = "#55606a"});
  // Sides are those the page says for each cell.
  const QString style =
      "body { font-family: Inter, sans-serif; font-size: 10pt; } table { border-collapse: collapse; margin: "
      "6px 0; } td, th { padding: 1px 12px 1px 0px; }";
  if (path.endsWith(".pdf", Qt::CaseInsensitive)) {
    // The page is laid out in the screen's pixels, as its fonts and gaps are; letters stay outlines.
    QPrinter printer(QPrinter::ScreenResolution);
    printer.setOutputFormat(QPrinter::PdfFormat);
    printer.setOutputFileName(path);
    if (options.wide) printer.setPageOrientation(QPageLayout::Landscape);
    QTextDocument document;
    document.setDefaultFont(face(12));
    document.setDefaultStyleSheet(style);
    QString all = QString::fromStdString(body);
    if (options.picture) {
      document.addResource(QTextDocument::ImageResource, QUrl("figure.png"), *options.picture);
      all += "<p><img src='figure.png' width='480'></p>";
    }
    document.setHtml(all);
    document.print(&printer);
    return printer.printerState() != QPrinter::Error && QFileInfo::exists(path)
               ? QString()
               : QObject::tr("%1 could not be written").arg(path);
  }
  QSaveFile file(path);
  const QByteArray text =
      QString(
          "<!doctype html><html lang='en'><head><meta "
          "charset='utf-8'><title>%1</title><style>%2</style></head><body>%3</body></html>\n")
          .arg(options.title, style, QString::fromStdString(body))
          .toUtf8();
  if (!file.open(QIODevice::WriteOnly) || file.write(text) != text.size() || !file.commit())
    return QObject::tr("%1 could not be written: %2").arg(path, file.errorString());
  return {};
}

}  // namespace conduit::desktop
