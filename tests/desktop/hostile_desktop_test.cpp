// What comes from outside into the real window: pictures, tables, names of files.
#include <gtest/gtest.h>
#include <sys/stat.h>

#include <QApplication>
#include <QBuffer>
#include <QClipboard>
#include <QDir>
#include <QFile>
#include <QTableView>
#include <QTest>
#include <fstream>

#include "drawer/ledger.h"
#include "layout_fixture.h"
#include "parts/registry.h"
#include "plan/picture_store.h"

namespace conduit::desktop {
namespace {

TEST(PictureFiles, lieInTheFolderOfTheModelOrBelowIt) {
  QTemporaryDir outside, home;
  ASSERT_TRUE(QDir(home.path()).mkdir("below"));
  for (const QString& file : {outside.filePath("secret.png"), home.filePath("below/plan.png")})
    std::ofstream(file.toStdString()) << "x";
  ASSERT_EQ(::mkfifo(home.filePath("fifo.png").toStdString().c_str(), 0600), 0);
  ASSERT_TRUE(QFile::link(outside.filePath("secret.png"), home.filePath("link.png")));
  ASSERT_TRUE(QFile::link(home.filePath("below/plan.png"), home.filePath("inner.png")));
  ASSERT_TRUE(QFile::link(outside.path(), home.filePath("way out")));
  struct Case {
    QString name, says;
  };
  QString why;
  for (const Case& c :
       {Case{"../" + QFileInfo(outside.path()).fileName() + "/secret.png", "the model's folder"},
        {outside.filePath("secret.png"), "the model's folder"},
        {"below/../../x.png", "the model's folder"},
        {"link.png", "points outside"},
        {"way out/secret.png", "points outside"},
        {"fifo.png", "not a regular file"},
        {"below", "not a regular file"},
        {"nothing.png", "not found"},
        {"/dev/zero", "the model's folder"}}) {
    why.clear();
    EXPECT_TRUE(placeOfPicture(home.path(), c.name, &why).isEmpty()) << c.name.toStdString();
    EXPECT_TRUE(why.contains(c.says)) << c.name.toStdString() << ": " << why.toStdString();
  }
  for (const char* good : {"below/plan.png", "inner.png", "below/../below/plan.png"})
    EXPECT_EQ(placeOfPicture(home.path(), good, &why),
              QFileInfo(home.filePath("below/plan.png")).canonicalFilePath())
        << good;
  EXPECT_TRUE(placeOfPicture("", "below/plan.png", &why).isEmpty());
}

TEST(PictureFiles, drawThemselvesAlone) {
  const auto svg = [](const QByteArray& within, const QByteArray& before = "") {
    return before +
           "<svg xmlns='http://www.w3.org/2000/svg' xmlns:xlink='http://www.w3.org/1999/xlink' width='40' "
           "height='20'>" +
           within + "</svg>";
  };
  QString why;
  for (const QByteArray& bad : {svg("<image xlink:href='file:///etc/hostname' width='9' height='9'/>"),
                                svg("<image href='../x.png' width='9' height='9'/>"),
                                svg("<rect width='9' height='9' fill=\"url('other.svg#a')\"/>"),
                                svg("<style>@import 'x.css';</style>"),
                                svg("<text>&e;</text>", "<!DOCTYPE svg [<!ENTITY e 'x'>]>")}) {
    why.clear();
    EXPECT_TRUE(readPicture(bad, 1, &why).isNull()) << bad.toStdString();
    EXPECT_TRUE(why.contains("external references") || why.contains("entities")) << why.toStdString();
  }
  for (const QByteArray& good : {svg("<defs><linearGradient id='a'/></defs><rect width='9' height='9' "
                                     "fill='url(#a)'/><use xlink:href='#a'/>"),
                                 svg("<a href='http://example.org'><rect width='9' height='9'/></a>")})
    EXPECT_FALSE(readPicture(good, 1, &why).isNull()) << why.toStdString();
  QByteArray bomb;  // four hundred million pixels in a few kilobytes
  {
    QBuffer buffer(&bomb);
    buffer.open(QIODevice::WriteOnly);
    QImage wide(20000, 20000, QImage::Format_Mono);
    wide.fill(0);
    ASSERT_TRUE(wide.save(&buffer, "PNG"));
  }
  EXPECT_TRUE(readPicture(bomb, 1, &why).isNull());
  EXPECT_TRUE(why.contains("million pixels")) << why.toStdString();
}

class Outside : public Layout {};

TEST_F(Outside, aPictureIsReadBesideTheWindowAndAFifoHoldsNothingUp) {
  QImage image(200, 100, QImage::Format_RGB32);
  image.fill(Qt::red);
  ASSERT_TRUE(image.save(dir.filePath("site.png")));
  ASSERT_EQ(::mkfifo(dir.filePath("fifo.png").toStdString().c_str(), 0600), 0);
  std::ofstream(dir.filePath("m.lconduit").toStdString())
      << R"({"format":"level-conduit","version":1,"points":[],"elements":[{"kind":"picture","name":"G","file":"site.png","width":"100 m","at":[0,0],"strength":"100 %"},{"kind":"picture","name":"F","file":"fifo.png","width":"100 m","at":[200,0]}]})";
  ASSERT_TRUE(window->openFile(dir.filePath("m.lconduit")));
  const auto red = [&] {
    const QColor there = plan().grab().toImage().pixelColor(plan().toScreen({0, 0}).toPoint());
    return there.red() - there.blue() > 50;
  };
  EXPECT_TRUE(QTest::qWaitFor(red, 10000)) << "the picture came when it had been read";
}

TEST_F(Outside, textThatBeginsLikeAFormulaIsCopiedAsText) {
  openSample("millpond.lconduit");
  ASSERT_TRUE(
      doc().take(setField(doc().network(), id("L-4"), "note", "=HYPERLINK(\"x\")", doc().stock(), nullptr)));
  net().showDrawer(1);
  Ledger& ledger = net().ledger();
  ledger.showPart(findPart("pipe"));
  ledger.setColumns({{"name", "given note", "given length"}, 1});
  ledger.table()->clearSelection();
  ledger.copyOut();
  EXPECT_TRUE(QApplication::clipboard()->text().contains("\t'=HYPERLINK"))
      << QApplication::clipboard()->text().toStdString();
}

TEST_F(Outside, saveAsAsksAgainWhenTheEndingNamesAnotherFile) {
  openSample("millpond.lconduit");
  std::ofstream(dir.filePath("there.lconduit").toStdString()) << "mine";
  int questions = 0;
  bool yes = false;
  window->askToReplace = [&](const QString& words) {
    EXPECT_TRUE(words.contains("there.lconduit"));
    return ++questions, yes;
  };
  EXPECT_FALSE(window->saveUnder(dir.filePath("there")));
  EXPECT_EQ(questions, 1);
  std::ifstream in(dir.filePath("there.lconduit").toStdString());
  EXPECT_EQ(std::string(std::istreambuf_iterator<char>(in), {}), "mine");
  yes = true;
  EXPECT_TRUE(window->saveUnder(dir.filePath("there")));
  EXPECT_TRUE(window->saveUnder(dir.filePath("there.lconduit")))
      << "the dialog has asked about a name typed whole";
  EXPECT_EQ(questions, 2);
}

TEST_F(Outside, aTableThatIsNoFileOrNoSheetIsRefusedInASentence) {
  ASSERT_EQ(::mkfifo(dir.filePath("pipe.csv").toStdString().c_str(), 0600), 0);
  net().importTable().openFile(dir.filePath("pipe.csv"));
  EXPECT_TRUE(said().contains("not a regular file")) << said().toStdString();
  std::ofstream(dir.filePath("broken.xlsx").toStdString()) << "PK\x03\x04 and no more";
  net().importTable().openFile(dir.filePath("broken.xlsx"));
  ASSERT_TRUE(QTest::qWaitFor([&] { return said().contains("broken.xlsx"); }, 20000)) << said().toStdString();
  EXPECT_TRUE(said().contains("not a valid spreadsheet")) << said().toStdString();
  EXPECT_FALSE(said().contains("Traceback")) << said().toStdString();
}

}  // namespace
}  // namespace conduit::desktop
