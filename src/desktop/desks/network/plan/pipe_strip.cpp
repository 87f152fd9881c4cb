#include "plan/pipe_strip.h"

#include <QAbstractItemView>
#include <QCompleter>
#include <QHBoxLayout>
#include <QKeyEvent>
#include <QLabel>
#include <QLineEdit>
#include <QPainter>
#include <QStandardItemModel>
#include <QStyle>
#include <algorithm>

#include "look/elided_label.h"
#include "network/assume.h"
#include "network/put.h"
#include "parts/registry.h"
#include "quantity/format.h"
#include "stock/said.h"

namespace conduit::desktop {
namespace {

constexpr int mostOffers = 40;

}  // namespace

PipeStrip::PipeStrip(Document& document, QWidget* parent)
    : QWidget(parent), doc_(document), look_(Look::light()), offers_(new QStandardItemModel(this)) {
  setObjectName("strip");
  setAccessibleName(tr("Current pipe"));
  setCursor(Qt::ArrowCursor);
  auto* line = new QHBoxLayout(this);
  line->setContentsMargins(14, 3, 14, 4);
  line->setSpacing(6);
  setLayout(line);
  size_ = field("size of new lines", tr("Size"), 176);
  wall_ = field("wall of new lines", tr("Roughness"), 96);
  height_ = field("height of new points", tr("Height"), 72);
  service_ = field("service of new lines", tr("Service"), 88);
  said_ = new ElidedLabel;
  said_->setObjectName("strip.said");
  line->addWidget(said_, 1);
  size_->setToolTip(tr("4 in sch 40, DN 100, 110 PE SDR 11, or a bore: 102.3 mm"));
  wall_->setToolTip(tr("Material or value: commercial steel, 0.05 mm"));
  height_->setToolTip(tr("Height of new points not connected to an existing one"));
  service_->setToolTip(tr("Service whose limits apply to new lines"));
  auto* sizes = new QCompleter(offers_, size_);
  sizes->setCompletionMode(QCompleter::UnfilteredPopupCompletion);
  sizes->setCompletionRole(Qt::EditRole);
  sizes->popup()->setMinimumWidth(330);
  size_->setCompleter(sizes);
  connect(size_, &QLineEdit::textEdited, this, &PipeStrip::offerSizes);
  connect(&doc_, &Document::changed, this, &PipeStrip::refresh);
  connect(&doc_, &Document::unitsChanged, this, &PipeStrip::refresh);
  refresh();
}

QLineEdit* PipeStrip::field(const char* key, const QString& name, int width) {
  auto* label = new QLabel(name);
  auto* edit = new QLineEdit;
  edit->setObjectName(QString("strip.") + name.toLower());
  edit->setAccessibleName(tr("%1 of new lines").arg(name));
  // In a narrow window they give way, at most by half.
  edit->setFixedHeight(23);
  edit->setMinimumWidth(width / 2);
  edit->setMaximumWidth(width);
  edit->installEventFilter(this);
  label->setBuddy(edit);
  layout()->addWidget(label);
  static_cast<QBoxLayout*>(layout())->addWidget(edit, width);
  connect(edit, &QLineEdit::editingFinished, this, [this, edit, key] { commit(edit, key); });
  return edit;
}

// What the words could mean, each with its bore; what is left open goes by what is in the hand.
void PipeStrip::offerSizes(const QString& typed) {
  offers_->clear();
  const PipeSize* like = pipeInHand(doc_.network(), *doc_.stock()).entry;
  int offered = 0;
  for (const PipeSize* size : sizesSaid(typed.toStdString(), *doc_.stock(), like)) {
    auto* item = new QStandardItem;
    item->setData(QString::fromStdString(size->name()), Qt::EditRole);
    item->setData(tr("%1   %2, bore %3")
                      .arg(QString::fromStdString(size->name()), QString::fromStdString(size->material),
                           QString::fromStdString(withUnit(size->bore_m, Measure::bore, doc_.units(), 4))),
                  Qt::DisplayRole);
    offers_->appendRow(item);
    if (++offered == mostOffers) break;
  }
}

void PipeStrip::commit(QLineEdit* edit, const char* key) {
  if (!edit->isModified()) return;
  edit->setModified(false);
  const Id job[] = {jobId};
  const bool taken = doc_.setField(job, key, edit->text());
  edit->setProperty("refused", !taken);
  if (!taken) {
    edit->setModified(true);
    said_->setText(QString::fromStdString(doc_.lastProblem().what).toHtmlEscaped());
    said_->setStyleSheet(QString("color: %1").arg(look_.warning.name()));
  } else {
    if (edit == size_ || edit == wall_ || edit == service_) like_ = noId;
    refresh();
  }
  edit->style()->unpolish(edit);
  edit->style()->polish(edit);
}

void PipeStrip::follow(Id like) {
  like_ = like;
  refresh();
}

void PipeStrip::refresh() {
  const Network& net = doc_.network();
  if (like_ != noId && (!net.find(like_) || !net.at(like_).part->geometry)) like_ = noId;
  const PipeInHand hand = pipeInHand(net, *doc_.stock());
  const auto show = [](QLineEdit* edit, const std::string& text, bool assumed) {
    if (edit->isModified()) return;
    edit->setText(assumed ? QString() : QString::fromStdString(text));
    edit->setPlaceholderText(assumed ? QString::fromStdString(text) : QString());
    QFont font = edit->font();
    font.setItalic(assumed);
    edit->setFont(font);
    edit->setCursorPosition(0);
  };
  QStringList assumed, said;
  double bore = 0;
  if (like_ != noId) {
    const Element& pipe = net.at(like_);
    Setting plain;
    plain.stock = doc_.stock();
    const auto textOf = [&](std::string_view key) {
      if (const Given* given = pipe.given(key)) return given->typed;
      if (const auto* words = pipe.text(key)) return *words;
      return std::string();
    };
    const std::string size = textOf("size");
    show(size_, size.empty() ? textOf("bore") : size, false);
    show(wall_, textOf(hand.wallField), false);
    show(service_, textOf("service"), false);
    bore = pipe.part->geometry(pipe.values, plain).bore_m.value_or(0.0);
    said << tr("as %1").arg(QString::fromStdString(pipe.name));
  } else {
    show(size_, hand.size, hand.sizeAssumed);
    show(wall_, hand.wall, hand.wallAssumed);
    show(service_, hand.service, false);
    if (hand.entry) bore = hand.entry->bore_m;
    if (hand.sizeAssumed) assumed << tr("size");
    if (hand.wallAssumed) assumed << tr("roughness");
  }
  show(height_, hand.height, hand.heightAssumed);
  if (hand.heightAssumed) assumed << tr("height");
  if (bore > 0)
    said.prepend(tr("bore %1").arg(QString::fromStdString(withUnit(bore, Measure::bore, doc_.units(), 4))));
  if (!assumed.isEmpty()) said << tr("italic: assumed");
  said_->setText(said.join(",&nbsp; "));
  said_->setStyleSheet(QString("color: %1").arg(look_.ink2.name()));
}

void PipeStrip::setLook(const Look& look) {
  look_ = look;
  setFont(face(12));
  for (QLabel* label : findChildren<QLabel*>())
    label->setStyleSheet(QString("color: %1").arg(look.ink2.name()));
  refresh();
  update();
}

void PipeStrip::paintEvent(QPaintEvent*) {
  QPainter p(this);
  p.fillRect(rect(), look_.paper);
  p.setPen(look_.hair);
  p.drawLine(0, 0, width(), 0);
}

// What a field leaves over is not for the drawing beneath.
void PipeStrip::keyPressEvent(QKeyEvent* event) { event->accept(); }
void PipeStrip::mousePressEvent(QMouseEvent* event) { event->accept(); }

bool PipeStrip::eventFilter(QObject* watched, QEvent* event) {
  if (event->type() == QEvent::KeyPress) {
    auto* edit = qobject_cast<QLineEdit*>(watched);
    const int key = static_cast<QKeyEvent*>(event)->key();
    if (edit && key == Qt::Key_Escape) {
      edit->setModified(false);
      edit->setProperty("refused", false);
      refresh();
      emit done();
      return true;
    }
    if (edit && (key == Qt::Key_Return || key == Qt::Key_Enter) &&
        !(edit->completer() && edit->completer()->popup()->isVisible())) {
      QMetaObject::invokeMethod(
          this,
          [this, edit] {
            if (!edit->property("refused").toBool()) emit done();
          },
          Qt::QueuedConnection);
    }
  }
  return QWidget::eventFilter(watched, event);
}

}  // namespace conduit::desktop
