// A figure as a picture: into a file, into the clipboard.
#pragma once

#include <QString>

class QCustomPlot;
class QWidget;

namespace conduit::desktop {

/// By the ending of the name: SVG or PNG, as large as `of`. False when it could not be written.
[[nodiscard]] bool savePicture(QCustomPlot& plot, const QWidget& of, const QString& path);
void copyPicture(QCustomPlot& plot, const QWidget& of);

}  // namespace conduit::desktop
