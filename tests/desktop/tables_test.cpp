// Tables in the real window: the Ledger, the clipboard, files.
#include <gtest/gtest.h>

#include <QApplication>
#include <QClipboard>
#include <QElapsedTimer>
#include <QMenu>
#include <QProcess>
#include <QPushButton>
#include <QTableView>
#include <QTest>
#include <QToolButton>
#include <fstream>

#include "drawer/ledger.h"
#include "exchange/model_file.h"
#include "layout_fixture.h"
#include "parts/registry.h"

namespace conduit::desktop {
namespace {

class Tables : public Layout {};

TEST_F(Tables, theLedgerChangesManyFillsDownAndKeepsItsColumns) {
  openSample("kestrel-fell.lconduit");
  net().showDrawer(1);
  Ledger& ledger = net().ledger();
  ledger.showPart(findPart("pipe"));
  auto* table = ledger.table();
  auto column = [&](const char* key) {
    for (int c = 0; c < ledger.model()->columnCount(); ++c)
      if (ledger.model()->keyOf(c) == key) return c;
    return -1;
  };
  const int rough = column("given roughness");
  ASSERT_GE(rough, 0);
  auto rowName = [&](int r) {
    return table->model()->index(r, 0).data(Qt::EditRole).toString().toStdString();
  };
  table->setCurrentIndex(table->model()->index(0, rough));
  for (int r = 0; r < 5; ++r)
    table->selectionModel()->select(table->model()->index(r, rough), QItemSelectionModel::Select);
  auto* many = window->findChild<QLineEdit*>("ledger.many");
  many->setText("* 2");
  QTest::keyClick(many, Qt::Key_Return);
  settle();
  EXPECT_EQ(given(rowName(0), "roughness"), "0.2 mm");
  EXPECT_EQ(given(rowName(4), "roughness"), "0.2 mm");
  EXPECT_EQ(given(rowName(5), "roughness"), "0.1 mm");
  // One text for all, then fill down.
  many->setText("0.5 mm");
  table->setCurrentIndex(table->model()->index(0, rough));
  QTest::keyClick(many, Qt::Key_Return);
  EXPECT_EQ(given(rowName(0), "roughness"), "0.5 mm");
  EXPECT_EQ(given(rowName(1), "roughness"), "0.2 mm") << "only what is selected";
  for (int r = 0; r < 3; ++r)
    table->selectionModel()->select(table->model()->index(r, rough), QItemSelectionModel::Select);
  table->setFocus();
  QTest::keyClick(table, Qt::Key_D, Qt::ControlModifier);
  EXPECT_EQ(given(rowName(2), "roughness"), "0.5 mm");
  EXPECT_EQ(count("pipe"), 44u) << "the window's own Ctrl+D did not duplicate";
  // Columns: chosen and ordered, kept under a name, and back.
  ledger.setColumns({{"name", "found flow", "given bore"}, 1});
  EXPECT_TRUE(table->isColumnHidden(rough));
  EXPECT_EQ(ledger.columns().keys, (QStringList{"name", "found flow", "given bore"}));
  ledger.saveColumns("short");
  ledger.setColumns({{"name", "given length"}, 1});
  EXPECT_TRUE(ledger.savedColumns().contains("short"));
  auto* button = window->findChild<QToolButton*>("ledger.columns");
  emit button->menu()->aboutToShow();
  for (QAction* a : button->menu()->actions())
    if (a->text() == "short") {
      a->trigger();
      break;
    }
  EXPECT_EQ(ledger.columns().keys, (QStringList{"name", "found flow", "given bore"}));
}

TEST_F(Tables, aBlockIsPastedIntoTheLedgerAndLookedAtFirst) {
  openSample("kestrel-fell.lconduit");
  net().showDrawer(1);
  Ledger& ledger = net().ledger();
  ledger.showPart(findPart("pipe"));
  auto* table = ledger.table();
  int length = -1;
  for (int c = 0; c < ledger.model()->columnCount(); ++c)
    if (ledger.model()->keyOf(c) == "given length") length = c;
  table->setFocus();
  table->setCurrentIndex(table->model()->index(4, length));
  const std::string fifth = table->model()->index(4, 0).data(Qt::EditRole).toString().toStdString(),
                    sixth = table->model()->index(5, 0).data(Qt::EditRole).toString().toStdString();
  const std::string before = writeModel(doc().network());
  QApplication::clipboard()->setText("33\n44,5 ft\n");
  QTest::keyClick(table, Qt::Key_V, Qt::ControlModifier);
  waitForTable();
  EXPECT_EQ(writeModel(doc().network()), before) << "nothing is taken before it is said";
  EXPECT_EQ(net().importTable().result()->changed, 2u) << net().importTable().result()->words();
  QTest::mouseClick(window->findChild<QPushButton*>("import.take"), Qt::LeftButton);
  settle();
  EXPECT_EQ(given(fifth, "length"), "33 m");
  EXPECT_EQ(given(sixth, "length"), "44,5 ft");
  EXPECT_EQ(doc().history().undoName(), "Import 2 rows");
  doc().undo();
  EXPECT_EQ(writeModel(doc().network()), before);
}

struct Hostile {
  const char* name;
  QString text;
  bool anything;  // something of it may come in
};
// Whatever is on the clipboard: a clear word, nothing half taken, no crash.
TEST_F(Tables, hostileClipboardsDoNoHarm) {
  openSample("millpond.lconduit");
  QString huge = "name\tx\ty\n";
  for (int i = 0; i < 100000; ++i) huge += QString("Q%1\t%2\t%3\n").arg(i).arg(i % 500).arg(i / 500);
  const Hostile cases[] = {
      {"ragged", "name\tfrom\tto\tlength\nA1\tN-1\nA2\tN-1\tN-6\t5\textra\tmore\n\tN-1\n", true},
      {"wrong units", "name\tlength (bar)\nL-1\t5 kg\nL-2\t5 bar\n", false},
      {"formulas", "name\tlength\nL-1\t=SUM(A1:A9)\nL-2\t#REF!\nL-4\t=1+1\n", false},
      {"right to left",
       QString::fromUtf8("name\tnote\n\xE2\x80\xAEL-4\xE2\x80\xAC\t\xD7\xA9\xD7\x9C\xD7\x95\xD7\x9D\n"),
       true},
      {"only blanks", "\t\t\n  \n", false},
      {"binary", QString(QChar(0)) + QString(QChar(0xFFFD)) + "\x01\x02\t\x03\n", false},
      {"one long line", QString(200000, 'x'), false},
      {"quotes left open", "name\tnote\nL-4\t\"never closed\nL-2\tok\n", true},
      {"a broken model", "{\"format\": \"level-conduit\", \"version\": 1, \"points\": 3}", false},
      {"a take-off of nobody", "X-99: 12 elbow\n", false},
      {"100 000 rows", huge, true}};
  for (const Hostile& h : cases) {
    const std::string before = writeModel(doc().network());
    const std::size_t step = doc().history().at();
    QApplication::clipboard()->setText(h.text);
    plan().setFocus();
    run("edit.paste");
    if (net().importTable().isVisible()) {
      ASSERT_TRUE(QTest::qWaitFor(
          [&] {
            return net().importTable().ready() ||
                   !window->findChild<QLabel*>("import.status")->text().contains("reading");
          },
          60000))
          << h.name;
      EXPECT_EQ(writeModel(doc().network()), before) << h.name;
      if (net().importTable().ready()) {
        const Imported& b = *net().importTable().result();
        EXPECT_EQ(b.made + b.changed > 0, h.anything) << h.name << ": " << b.words();
        for (const RefusedRow& r : b.refused) EXPECT_FALSE(r.what.empty()) << h.name;
      }
      net().importTable().take();
      net().importTable().leave();
    } else {
      EXPECT_FALSE(said().isEmpty()) << h.name;
    }
    EXPECT_LE(doc().history().at(), step + 1) << h.name;
    doc().jumpTo(step);
    EXPECT_EQ(writeModel(doc().network()), before) << h.name << " is one step of undo";
  }
}

TEST_F(Tables, filesComeInWithProgressAndGoInOneStep) {
  // Fifty thousand rows, measured and printed.
  const QString csv = dir.filePath("big.csv");
  {
    std::ofstream out(csv.toStdString());
    out << "id;from;to;length (m);diameter (mm);roughness (mm)\n";
    for (int i = 0; i < 50000; ++i)
      out << "W" << i << ";J" << i << ";J" << i + 1 << ";" << 10 + i % 90 << ",5;100;0,1\n";
  }
  QElapsedTimer clock;
  clock.start();
  net().importTable().openFile(csv);
  waitForTable();
  const double looked = static_cast<double>(clock.elapsed());
  EXPECT_EQ(net().importTable().result()->made, 50000u) << net().importTable().result()->words();
  net().importTable().take();
  const double taken = static_cast<double>(clock.elapsed());
  EXPECT_EQ(count("pipe"), 50000u);
  clock.restart();
  doc().undo();
  const double undone = static_cast<double>(clock.nsecsElapsed()) / 1e6;
  EXPECT_EQ(doc().network().count(), 0u);
  std::printf("  50 000 rows: looked at in %.0f ms, taken at %.0f ms, undone in %.1f ms\n", looked, taken,
              undone);
  // Leaving stops the work at once and changes nothing.
  net().importTable().openFile(csv);
  net().importTable().leave();
  EXPECT_FALSE(net().importTable().ready());
  EXPECT_EQ(doc().network().count(), 0u);
  // GeoJSON.
  const QString geo = dir.filePath("lines.geojson");
  std::ofstream(geo.toStdString())
      << R"({"type":"FeatureCollection","features":[{"type":"Feature","geometry":{"type":"LineString","coordinates":[[500,0,3],[530,40,3]]},"properties":{"name":"G1"}}]})";
  net().importTable().openFile(geo);
  waitForTable();
  net().importTable().take();
  EXPECT_EQ(given("G1", "length"), "50.000 m");
  // A file that is none of these is refused with its name.
  const QString broken = dir.filePath("broken.geojson");
  std::ofstream(broken.toStdString()) << "{";
  net().importTable().openFile(broken);
  EXPECT_TRUE(said().contains("broken.geojson"));
}

TEST_F(Tables, aSpreadsheetComesInThroughTheConverter) {
  // The least a spreadsheet file has: five parts in an archive, made here with the archiver the converter
  // brings along.
  const QString folder = dir.filePath("x");
  QDir().mkpath(folder + "/_rels"), QDir().mkpath(folder + "/xl/_rels"),
      QDir().mkpath(folder + "/xl/worksheets");
  auto part = [&](const char* name, const char* text) {
    std::ofstream((folder + "/" + name).toStdString()) << text;
  };
  part(
      "[Content_Types].xml",
      R"(<?xml version="1.0"?><Types xmlns="http://schemas.openxmlformats.org/package/2006/content-types"><Default Extension="rels" ContentType="application/vnd.openxmlformats-package.relationships+xml"/><Default Extension="xml" ContentType="application/xml"/><Override PartName="/xl/workbook.xml" ContentType="application/vnd.openxmlformats-officedocument.spreadsheetml.sheet.main+xml"/><Override PartName="/xl/worksheets/sheet1.xml" ContentType="application/vnd.openxmlformats-officedocument.spreadsheetml.worksheet+xml"/></Types>)");
  part(
      "_rels/.rels",
      R"(<?xml version="1.0"?><Relationships xmlns="http://schemas.openxmlformats.org/package/2006/relationships"><Relationship Id="rId1" Type="http://schemas.openxmlformats.org/officeDocument/2006/relationships/officeDocument" Target="xl/workbook.xml"/></Relationships>)");
  part(
      "xl/workbook.xml",
      R"(<?xml version="1.0"?><workbook xmlns="http://schemas.openxmlformats.org/spreadsheetml/2006/main" xmlns:r="http://schemas.openxmlformats.org/officeDocument/2006/relationships"><sheets><sheet name="Points" sheetId="1" r:id="rId1"/></sheets></workbook>)");
  part(
      "xl/_rels/workbook.xml.rels",
      R"(<?xml version="1.0"?><Relationships xmlns="http://schemas.openxmlformats.org/package/2006/relationships"><Relationship Id="rId1" Type="http://schemas.openxmlformats.org/officeDocument/2006/relationships/worksheet" Target="worksheets/sheet1.xml"/></Relationships>)");
  part(
      "xl/worksheets/sheet1.xml",
      R"(<?xml version="1.0"?><worksheet xmlns="http://schemas.openxmlformats.org/spreadsheetml/2006/main"><sheetData><row r="1"><c r="A1" t="inlineStr"><is><t>name</t></is></c><c r="B1" t="inlineStr"><is><t>elevation (m)</t></is></c></row><row r="2"><c r="A2" t="inlineStr"><is><t>Hill</t></is></c><c r="B2"><v>87.5</v></c></row></sheetData></worksheet>)");
  const QString file = dir.filePath("points.xlsx");
  QProcess zip;
  zip.setWorkingDirectory(folder);
  zip.start("/usr/bin/python3", {"-m", "zipfile", "-c", file, "[Content_Types].xml", "_rels", "xl"});
  ASSERT_TRUE(zip.waitForFinished(20000));
  net().importTable().openFile(file);
  waitForTable();
  net().importTable().take();
  EXPECT_EQ(given("Hill", "height"), "87.5 m");
  std::ofstream(file.toStdString()) << "this is no archive";
  net().importTable().openFile(file);
  ASSERT_TRUE(QTest::qWaitFor([&] { return said().contains("points.xlsx"); }, 20000)) << said().toStdString();
}

}  // namespace
}  // namespace conduit::desktop
