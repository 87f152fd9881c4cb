// Texts fit where they stand, no key of a file is shown, and no shortcut has two meanings.
#include <QAbstractButton>
#include <QComboBox>
#include <QHeaderView>
#include <QLabel>
#include <QTextDocument>

#include "layout_fixture.h"
#include "look/cell_table.h"
#include "look/elided_label.h"
#include "look/round_numbers.h"
#include "model/case_set.h"
#include "model/costs.h"
#include "parts/registry.h"
#include "say/words.h"
#include "table_cells.h"

namespace conduit::desktop {
namespace {

class Fits : public Layout, public testing::WithParamInterface<const char*> {
 protected:
  // Buttons and labels of one line, whole or with "…" and the whole as a tip.
  void expectWhole(const std::string& where) {
    for (const auto* b : window->findChildren<QAbstractButton*>()) {
      if (!b->isVisible() || b->text().isEmpty() || b->visibleRegion().isEmpty()) continue;
      EXPECT_GE(b->width() + 1, b->fontMetrics().horizontalAdvance(QString(b->text()).remove('&')))
          << where << ": the button \"" << b->text().toStdString() << "\" is cut";
      ++seen;
    }
    for (const auto* l : window->findChildren<QLabel*>()) {
      if (!l->isVisible() || l->text().isEmpty() || l->wordWrap() || qobject_cast<const ElidedLabel*>(l) ||
          l->visibleRegion().isEmpty())
        continue;
      double wide = l->fontMetrics().horizontalAdvance(l->text());
      if (l->textFormat() == Qt::RichText || Qt::mightBeRichText(l->text())) {
        QTextDocument document;
        document.setDefaultFont(l->font());
        document.setDocumentMargin(0);
        document.setHtml(l->text());
        wide = document.idealWidth();
      } else if (l->text().contains('\n')) {
        continue;
      }
      EXPECT_GE(l->contentsRect().width() + 1.5, wide)
          << where << ": \"" << l->text().toStdString() << "\" is cut (" << l->objectName().toStdString()
          << ")";
      ++seen;
    }
    for (auto* table : window->findChildren<CellTable*>())
      if (table->isVisible()) EXPECT_EQ(cutCells(*table), QStringList()) << where;
    for (const auto* l : window->findChildren<ElidedLabel*>())
      if (const auto cut = l->cutAt()) EXPECT_LT(*cut, l->width()) << where << ": no room for its mark";
  }
  // No column heading of more than twelve characters, units aside; names of elements and cases are their own.
  void expectShortHeadings() {
    for (const auto* table : window->findChildren<CellTable*>()) {
      const QAbstractItemModel& m = *table->model();
      for (int c = 0; c < m.columnCount(); ++c) {
        const QString head = m.headerData(c, Qt::Horizontal).toString();
        EXPECT_LE(head.section(',', 0, 0).size(), 12) << head.toStdString();
      }
    }
  }
  std::size_t seen = 0;
};

TEST_P(Fits, everyTextOnEveryDeskInTwoSizesOfWindow) {
  openSample(GetParam());
  for (const QSize& size : {QSize(1280, 800), QSize(1024, 700)}) {
    window->resize(size);
    for (int i = 0; i < 3; ++i) QApplication::processEvents();
    EXPECT_EQ(window->size(), size) << "the window asks for more than the screen has";
    if (window->size() != size)  // by whom
      for (const auto* w : window->findChildren<QWidget*>())
        if (std::max(w->minimumSizeHint().width(), w->minimumWidth()) > size.width() / 2)
          ADD_FAILURE() << w->metaObject()->className() << " " << w->objectName().toStdString() << " needs "
                        << std::max(w->minimumSizeHint().width(), w->minimumWidth());
    for (int desk = 0; desk < 4; ++desk) {
      window->showDesk(static_cast<std::size_t>(desk));
      ASSERT_TRUE(QTest::qWaitFor([&] { return doc().current(); }, 10000));
      QTest::qWait(desk == 0 ? 50 : 600);  // studies that are solved at once
      const std::string where =
          std::string(GetParam()) + " " + std::to_string(size.width()) + " desk " + std::to_string(desk);
      EXPECT_EQ(window->size(), size) << where;
      expectWhole(where);
      expectShortHeadings();
      if (auto* balance = desk == 2 ? window->findChild<QAbstractButton*>("sizing.way.balance") : nullptr) {
        balance->click();
        QTest::qWait(600);
        expectWhole(where + ", balance");
        expectShortHeadings();
        window->findChild<QAbstractButton*>("sizing.way.network")->click();
      }
    }
    window->showDesk(0);
    for (const int page : {0, 1, 2}) {
      net().showDrawer(page);
      QTest::qWait(50);
      EXPECT_EQ(window->size(), size) << "with drawer " << page;
      expectWhole("drawer " + std::to_string(page));
    }
    net().showDrawer(-1);
    // While a line is drawn the strip below Plan says what is drawn.
    plan().setFocus();
    type("l");
    click({300, 60});
    QTest::qWait(50);
    EXPECT_EQ(window->size(), size) << "while a line is drawn";
    expectWhole("while a line is drawn");
    key(Qt::Key_Escape);
    // A card of each kind there is.
    std::set<std::string_view> kinds;
    std::vector<Id> one;
    doc().network().each([&](Id id, const Element& e) {
      if (kinds.insert(e.part->key).second) one.push_back(id);
    });
    for (const Id id : one) {
      doc().select({id});
      QTest::qWait(10);
      expectWhole("card of " + doc().network().at(id).name);
      EXPECT_EQ(window->size(), size) << doc().network().at(id).name;
    }
    doc().select({});
  }
  EXPECT_GT(seen, 500u);
}
INSTANTIATE_TEST_SUITE_P(Samples, Fits, testing::Values("kestrel-fell.lconduit", "larch-court.lconduit"));

// One element of every kind there is, each with its card and its table: no key is shown where people have
// another word for it.
TEST_F(Fits, noKeyOfTheFileIsShown) {
  std::set<QString> keys;
  const auto take = [&](std::string_view key) {
    if (spoken(key) != key) keys.insert(QString::fromUtf8(key.data(), static_cast<int>(key.size())));
  };
  Draft draft{Network()};
  std::vector<Id> made;
  double y = 0;
  for (const Part* part : allParts()) {
    for (const Field& f : part->fields) {
      take(f.key);
      for (const auto& c : f.choices) take(c);
    }
    for (const Outcome& o : part->outcomes) take(o.key);
    if (part->ends == Ends::none || part->key == "picture") continue;
    y += 20;
    const Id a = draft.addPoint("", {0, y}), b = draft.addPoint("", {40, y});
    if (part->ends == Ends::self) continue;
    if (part->ends == Ends::two) made.push_back(draft.addNew(*part, "", {a, b}, {}));
    else if (part->ends == Ends::free) made.push_back(draft.addNew(*part, "", {}, Spot{20, y}));
    else made.push_back(draft.addNew(*part, "", {a}, part->ends == Ends::many ? Spot{0, y} : Spot{}));
  }
  for (const auto& f : caseFields()) take(f.key);
  for (const auto& f : costFields()) take(f.key);
  ASSERT_GT(keys.size(), 60u);
  doc().take(Edited{"every kind", std::move(draft).finish()});
  settle();
  made.push_back(doc().network().byName("N-1"));
  made.push_back(jobId);
  std::size_t seen = 0;
  const auto expectNoKey = [&](const QString& shown, const std::string& where) {
    ++seen;
    QString words = shown;
    for (const char* mark : {"● ", "○ "}) words.remove(QString::fromUtf8(mark));
    words = words.section(',', 0, 0).trimmed();
    for (const QString& word : {words, words.toLower()})
      EXPECT_FALSE(keys.contains(word)) << where << " shows \"" << shown.toStdString() << "\"";
    EXPECT_FALSE(words.endsWith(" at least") || words.endsWith(" at most"))
        << where << " shows \"" << shown.toStdString() << "\"";
  };
  for (const Id id : made) {
    if (id == noId) continue;
    const std::string where = id == jobId ? "the job" : doc().network().at(id).name;
    doc().select(id == jobId ? std::vector<Id>{} : std::vector<Id>{id});
    settle();
    // All of its fields, not only those that are used.
    if (auto* more = window->findChild<QToolButton*>("more");
        more && more->text().contains(QString::fromUtf8("▾"))) {
      more->click();
      QApplication::processEvents();
    }
    const auto* card = window->findChild<QWidget*>("card");
    ASSERT_NE(card, nullptr);
    for (const auto* l : card->findChildren<QLabel*>()) expectNoKey(l->text(), where);
    for (const auto* b : card->findChildren<QAbstractButton*>()) {
      expectNoKey(b->text(), where);
      for (const QString& key : keys)
        EXPECT_FALSE(key.contains(' ') && key.size() > 8 && b->accessibleName().contains(key))
            << where << ": \"" << b->accessibleName().toStdString() << "\" names the key "
            << key.toStdString();
    }
    for (const auto* c : card->findChildren<QComboBox*>())
      for (int i = 0; i < c->count(); ++i) expectNoKey(c->itemText(i), where);
  }
  EXPECT_GT(seen, 600u);
  net().showDrawer(1);
  auto* kinds = window->findChild<QComboBox*>("ledger.kind");
  ASSERT_NE(kinds, nullptr);
  auto* table = window->findChild<QTableView*>("ledger.table");
  ASSERT_NE(table, nullptr);
  std::size_t heads = 0;
  for (int k = 0; k < kinds->count(); ++k) {
    kinds->setCurrentIndex(k);
    QApplication::processEvents();
    const QAbstractItemModel& m = *table->model();
    for (int c = 0; c < m.columnCount(); ++c) {
      expectNoKey(m.headerData(c, Qt::Horizontal).toString(),
                  "ledger of " + kinds->currentText().toStdString());
      ++heads;
    }
  }
  EXPECT_GT(heads, 200u);
}

TEST_F(Fits, aShortcutHasOneMeaningOnAllDesks) {
  std::map<QString, QStringList> of;
  for (const QAction* a : window->actions())
    for (const QKeySequence& k : a->shortcuts()) of[k.toString()] << a->objectName();
  EXPECT_GT(of.size(), 40u);
  for (const auto& [keys, names] : of)
    EXPECT_EQ(names.size(), 1) << keys.toStdString() << ": " << names.join(", ").toStdString();
}

TEST_F(Fits, theSheetOfKeysOpensOnEveryDesk) {
  auto* keys = window->findChild<QWidget*>("keys");
  ASSERT_NE(keys, nullptr);
  for (std::size_t desk = 0; desk < 4; ++desk) {
    window->showDesk(desk);
    QApplication::processEvents();
    EXPECT_FALSE(keys->isVisible());
    QWidget* at = QApplication::focusWidget() ? QApplication::focusWidget() : window.get();
    if (qobject_cast<QLineEdit*>(at)) window->setFocus(), at = window.get();
    QTest::keyClick(at, Qt::Key_Question, Qt::ShiftModifier);
    EXPECT_TRUE(keys->isVisible()) << "desk " << desk;
    EXPECT_FALSE(keys->grab().isNull());
    QTest::keyClick(keys, Qt::Key_A);
    EXPECT_FALSE(keys->isVisible());
  }
}

// A line that is too long ends in "…" between two letters and tells all of it when pointed at.
TEST(Elided, endsBetweenLettersAndKeepsItsLinks) {
  ElidedLabel label;
  label.setFont(face(13));
  label.resize(2000, 20);
  const QString words = "Solved, but <a href='x'>physically impossible</a>: the pressure at N-7 is too low";
  label.setText(words);
  EXPECT_FALSE(label.cutAt());
  QTextDocument document;
  document.setDefaultFont(label.font());
  document.setDocumentMargin(0);
  document.setHtml(words);
  const int whole = static_cast<int>(document.idealWidth());
  label.resize(whole + 2, 20);
  EXPECT_FALSE(label.cutAt());
  const double mark = label.fontMetrics().horizontalAdvance(QChar(0x2026));
  for (int w = 60; w < whole - 2; w += 37) {
    label.resize(w, 20);
    const auto cut = label.cutAt();
    ASSERT_TRUE(cut) << w;
    EXPECT_LE(*cut + mark, w) << w;
    EXPECT_GT(*cut + mark + 16, w - 12) << w << ": more is cut than need be";
    EXPECT_EQ(label.text(), words);
  }
}

TEST(RoundNumbers, thousandsStandApart) {
  const QString gap(QChar(0x202f));
  for (const auto& [written, shown] : std::initializer_list<std::pair<const char*, QString>>{
           {"999", "999"},
           {"1000", "1" + gap + "000"},
           {"-1000", "-1" + gap + "000"},
           {"-999.5", "-999.5"},
           {"1234567.5", "1" + gap + "234" + gap + "567.5"},
           {"0.0001", "0.0001"},
           {"1e-09", "1e-09"},
           {"", ""}})
    EXPECT_EQ(withThousands(written), shown) << written;
}

}  // namespace
}  // namespace conduit::desktop
