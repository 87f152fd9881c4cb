// What is being laid: a strip at the foot of Plan while a line is in the hand. Its fields take what an
// engineer says ("4 in sch 40", "commercial steel"); every new line takes what stands there.
#pragma once

#include <QWidget>

#include "document/document.h"
#include "look/look.h"

class QLabel;
class QLineEdit;
class QStandardItemModel;

namespace conduit::desktop {

class PipeStrip : public QWidget {
  Q_OBJECT
 public:
  explicit PipeStrip(Document& document, QWidget* parent);
  void setLook(const Look& look);
  /// The pipe that the next one is like, until something else is typed here; noId: as the job says.
  void follow(Id like);
  /// False once something has been typed since follow: new lines then go by the job.
  [[nodiscard]] bool likeHolds() const { return like_ != noId; }

 signals:
  void done();  // Enter or Escape in a field: the keyboard goes back to the drawing

 protected:
  void paintEvent(QPaintEvent*) override;
  void keyPressEvent(QKeyEvent* event) override;
  void mousePressEvent(QMouseEvent* event) override;
  bool eventFilter(QObject* watched, QEvent* event) override;

 private:
  void refresh();
  void commit(QLineEdit* edit, const char* key);
  void offerSizes(const QString& typed);
  QLineEdit* field(const char* key, const QString& name, int width);
  Document& doc_;
  Look look_;
  Id like_ = noId;
  QLineEdit *size_, *wall_, *service_, *height_;
  QLabel* said_;
  QStandardItemModel* offers_;
};

}  // namespace conduit::desktop
