#include "plot/picture.h"

#include <qcustomplot.h>

#include <QApplication>
#include <QClipboard>
#include <QSvgGenerator>

namespace conduit::desktop {

bool savePicture(QCustomPlot& plot, const QWidget& of, const QString& path) {
  if (!path.endsWith(".svg", Qt::CaseInsensitive)) return plot.savePng(path, of.width(), of.height(), 2.0);
  QSvgGenerator svg;
  svg.setFileName(path);
  svg.setSize(of.size());
  svg.setViewBox(of.rect());
  QCPPainter p;
  if (!p.begin(&svg)) return false;
  p.setMode(QCPPainter::pmVectorized);
  plot.toPainter(&p, of.width(), of.height());
  return p.end();
}

void copyPicture(QCustomPlot& plot, const QWidget& of) {
  QApplication::clipboard()->setPixmap(plot.toPixmap(of.width(), of.height(), 2.0));
}

}  // namespace conduit::desktop
