// Typing over a found number gives it; what is found in its place is chosen from what would do, each solved
// beside the window on a copy before it is offered with its value.
#include <QApplication>
#include <QKeyEvent>
#include <QPointer>
#include <QStyle>

#include "card/card.h"
#include "card/found_number.h"
#include "look/words.h"
#include "quantity/format.h"

namespace conduit::desktop {

// The field stands where the number stood. Enter asks what could be found instead, Escape leaves it.
void Card::typeOver(const Outcome& outcome, QWidget* row, const QString& first) {
  const auto at = founds_.find(std::string(outcome.key));
  if (at == founds_.end() || shown().size() != 1) return;
  endExchange();
  auto* edit = new QLineEdit(row);
  edit->setObjectName("type." + text(outcome.key));
  edit->setAccessibleName(tr("%1: enter a value").arg(sentence(outcome.key)));
  edit->setAlignment(Qt::AlignRight);
  edit->setFixedSize(112, 23);
  edit->move(row->width() - 112 - 26, 0);
  edit->setPlaceholderText(tr("set …"));
  edit->installEventFilter(this);
  const std::optional<double> last = lastFound(outcome);
  if (first.isEmpty() && last) {
    edit->setText(QString::fromStdString(exactText(*last, outcome.measure, doc_.units())));
    edit->selectAll();
  } else {
    edit->setText(first);
  }
  edit->show();
  edit->setFocus();
  if (!first.isEmpty()) edit->deselect(), edit->setCursorPosition(static_cast<int>(first.size()));
  const Outcome* of = &outcome;
  connect(edit, &QLineEdit::returnPressed, this, [this, of, edit] {
    const QString typed = edit->text().trimmed();
    if (typed.isEmpty()) return endExchange();
    askExchange(*of, typed);
  });
  typing_ = edit;
}

bool Card::eventFilter(QObject* watched, QEvent* event) {
  if (auto* edit = qobject_cast<QLineEdit*>(watched);
      edit && (event->type() == QEvent::FocusIn || event->type() == QEvent::FocusOut) && !edit->isModified())
    if (const QString whole = edit->property("whole").toString(); !whole.isEmpty())
      edit->setText(event->type() == QEvent::FocusIn ? whole : edit->property("said").toString());
  // An entry that was refused: undo gives the field back, not a step of the model.
  if (auto* edit = qobject_cast<QLineEdit*>(watched);
      edit && (event->type() == QEvent::ShortcutOverride || event->type() == QEvent::KeyPress) &&
      static_cast<QKeyEvent*>(event)->matches(QKeySequence::Undo) && edit->property("refused").toBool()) {
    event->accept();
    if (event->type() == QEvent::KeyPress) {
      edit->setModified(false);
      edit->setProperty("refused", false);
      edit->style()->unpolish(edit);
      edit->style()->polish(edit);
      edit->setProperty("typed", QVariant());
      refresh();
      edit->selectAll();
    }
    return true;
  }
  if (event->type() == QEvent::KeyPress && static_cast<QKeyEvent*>(event)->key() == Qt::Key_Escape &&
      (watched == typing_ || (watched->isWidgetType() && watched->property("offer").toBool()))) {
    endExchange();
    refresh();
    return true;
  }
  if (event->type() == QEvent::KeyPress && watched->property("offer").toBool()) {
    const int key = static_cast<QKeyEvent*>(event)->key();
    if (key == Qt::Key_Down || key == Qt::Key_Up) {
      focusNextPrevChild(key == Qt::Key_Down);
      return true;
    }
  }
  return QWidget::eventFilter(watched, event);
}

void Card::endExchange() {
  exchanging_.leave();
  exchange_.outcome = nullptr;
  exchange_.offers.clear();
  exchange_.why.clear();
  if (typing_) {  // it may be speaking right now
    typing_->hide();
    typing_->setObjectName({});
    typing_->deleteLater();
  }
  typing_ = nullptr;
}

// Who could be found instead is asked beside the window, then each is tried.
void Card::askExchange(const Outcome& outcome, const QString& typed) {
  const Id id = shown().front();
  exchange_.outcome = &outcome;
  exchange_.of = id;
  exchange_.typed = typed;
  exchange_.offers.clear();
  exchange_.why.clear();
  exchange_.asked = false;
  refresh();
  exchanging_.begin([this, network = doc_.network(), stock = doc_.sharedStock(), units = doc_.units(),
                     solved = doc_.current() ? doc_.solved() : nullptr, id, key = outcome.key,
                     typed = typed.toStdString()](const Background::Post& post, const std::stop_token& stop) {
    const auto tell = [&](std::function<void()> what) {
      post([this, what = std::move(what)] {
        what();
        refresh();
      });
    };
    const auto exchanges = exchangesFor(network, stock.get(), units, id, key, typed, 8, stop);
    if (stop.stop_requested()) return;
    tell([this, exchanges] {
      exchange_.asked = true;
      if (!exchanges) exchange_.why = exchanges.error().what;
      else
        for (const Exchange& e : *exchanges) exchange_.offers.push_back({e, std::nullopt});
    });
    for (std::size_t i = 0; exchanges && i < exchanges->size() && !stop.stop_requested(); ++i) {
      const ExchangeTried tried = tryExchange(network, stock.get(), units, (*exchanges)[i],
                                              solved ? &solved->solution : nullptr, stop);
      if (stop.stop_requested()) return;
      tell([this, i, tried] { offerTried(i, tried); });
    }
  });
}

void Card::offerTried(std::size_t i, const ExchangeTried& tried) {
  if (i >= exchange_.offers.size()) return;
  exchange_.offers[i].second = tried;
  // Once all are tried: what can be first, likeliest before others.
  if (std::all_of(exchange_.offers.begin(), exchange_.offers.end(),
                  [](const auto& o) { return o.second.has_value(); }))
    std::stable_sort(exchange_.offers.begin(), exchange_.offers.end(),
                     [own = exchange_.of](const auto& a, const auto& b) {
                       return offeredBefore(a.first, a.second, b.first, b.second, own);
                     });
}

// Under the number: what could be found in its place, each with what it would be.
void Card::makeOffers() {
  const auto quiet = [&](const QString& words, const QColor& ink) {
    auto* label = new QLabel(words);
    label->setWordWrap(true);
    label->setContentsMargins(26, 0, 0, 0);
    label->setStyleSheet(QString("color: %1").arg(ink.name()));
    rows_->addWidget(label);
    return label;
  };
  auto* heading =
      quiet(tr("%1 = %2: solve for what instead?").arg(sentence(exchange_.outcome->key), exchange_.typed),
            look_.ink);
  heading->setObjectName("offers");
  if (!exchange_.why.empty()) {
    quiet(QString::fromStdString(exchange_.why), look_.warning)->setObjectName("offers.why");
  } else if (!exchange_.asked) {
    quiet(tr("searching …"), look_.ink2);
  }
  int number = 0;
  QStringList cannot, why;
  for (const auto& [exchange, tried] : exchange_.offers) {
    // What cannot be is named in one line, not offered.
    if (tried && !tried->balances && exchange.element != noId) {
      cannot << QString("%1 of %2")
                    .arg(spokenText(exchange.field), text(doc_.network().at(exchange.element).name));
      why << cannot.last() + ": " + QString::fromStdString(tried->why);
      continue;
    }
    QString words, value = tr("…");
    if (exchange.element == noId) {
      words = tr("none: just set the value");
    } else {
      const Element& e = doc_.network().at(exchange.element);
      words = QString("%1 of %2").arg(spokenText(exchange.field), QString::fromStdString(e.name));
      if (tried && tried->balances && tried->value_si) {
        const Field* field = findField(*e.part, exchange.field);
        value = QString::fromStdString(withUnit(*tried->value_si, field->measure, doc_.units(), 4));
      }
    }
    if (tried && tried->balances && !tried->value_si) value = tr("possible");
    if (tried && !tried->balances) value = tr("not possible");
    auto* row = new QWidget;
    auto* line = new QHBoxLayout(row);
    line->setContentsMargins(26, 0, 0, 0);
    line->setSpacing(6);
    auto* button = new QToolButton;
    button->setObjectName(QString("offer.%1").arg(number++));
    button->setProperty("offer", true);
    button->installEventFilter(this);
    button->setText(words);
    button->setAccessibleName(tr("Solve for %1: %2").arg(words, value));
    const bool may = !tried || tried->balances;
    button->setStyleSheet(
        QString("color: %1; text-align: left;").arg((may ? look_.water : look_.ink2).name()));
    button->setEnabled(may);
    if (tried && !tried->why.empty()) button->setToolTip(QString::fromStdString(tried->why));
    line->addWidget(button);
    line->addStretch(1);
    const bool more =
        tried && tried->balances && doc_.solved() && tried->broken > doc_.solved()->standing.broken;
    auto* number_ = new QLabel(value + (more ? " ▲" : ""));
    if (more)
      number_->setToolTip(
          tr("%1 limits would not be met (%2 now)").arg(tried->broken).arg(doc_.solved()->standing.broken));
    if (tried && !tried->why.empty()) number_->setToolTip(QString::fromStdString(tried->why));
    line->addWidget(number_);
    row->setFixedHeight(23);
    rows_->addWidget(row);
    const Remedy remedy = exchange.remedy;
    connect(
        button, &QToolButton::clicked, this,
        [this, remedy] {
          endExchange();
          doc_.apply(remedy);
        },
        Qt::QueuedConnection);
  }
  if (!cannot.isEmpty()) {
    auto* label = quiet(tr("not possible: %1").arg(cannot.join(", ")), look_.ink2);
    label->setObjectName("offers.cannot");
    label->setToolTip(why.join("\n"));
  }
}

}  // namespace conduit::desktop
