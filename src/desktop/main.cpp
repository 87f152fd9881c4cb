#include <QApplication>
#include <QCommandLineParser>
#include <QDir>
#include <QElapsedTimer>
#include <QStyleFactory>
#include <QTimer>
#include <cstdio>
#include <cstdlib>
#include <functional>

#include "card/card.h"
#include "pictures.h"
#include "window/main_window.h"

namespace {

// A mistake of our own ends the program with status 4, and what was not saved is kept for the next start.
class Application : public QApplication {
 public:
  using QApplication::QApplication;
  std::function<void()> keep;
  bool notify(QObject* receiver, QEvent* event) override {
    try {
      return QApplication::notify(receiver, event);
    } catch (const std::exception& fault) {
      if (keep) keep();
      std::fprintf(stderr, "level-conduit: %s. Unsaved work is kept and offered at the next start.\n",
                   fault.what());
      std::_Exit(4);
    }
  }
};

}  // namespace

int main(int argc, char** argv) {
  using namespace conduit::desktop;
  QElapsedTimer clock;
  clock.start();
  Application app(argc, argv);
  QCoreApplication::setOrganizationName("level-conduit");
  QCoreApplication::setApplicationName("level-conduit");
  QCoreApplication::setApplicationVersion(CONDUIT_VERSION);
  QApplication::setStyle(QStyleFactory::create("Fusion"));
  loadFonts();
  QCommandLineParser parser;
  parser.setApplicationDescription("Level Conduit: steady pressure and flow in pipe networks.");
  parser.addHelpOption();
  parser.addVersionOption();
  parser.addPositionalArgument("FILE", "a model to open", "[FILE]");
  const QCommandLineOption pictures("pictures", "Save pictures of each desk to DIR and exit.", "DIR");
  const QCommandLineOption timing("timing", "Print start-up times on standard error.");
  parser.addOptions({pictures, timing});
  parser.process(app);
  const QStringList files = parser.positionalArguments();
  const int status = [&] {
    if (parser.isSet(pictures))
      return drawPictures(parser.value(pictures), files.isEmpty() ? QString() : files.first());
    MainWindow window;
    app.keep = [&] { window.document().keepRecovery(); };
    if (!files.isEmpty() && !window.openFile(files.first()))
      std::fprintf(stderr, "%s\n", window.document().lastProblem().what.c_str());
    // What an earlier run did not save: a link has it back, unsaved; the file it came from is untouched.
    if (const QStringList left = Document::leftBehind(); !left.isEmpty()) window.offerRecovery(left.first());
    window.show();
    if (parser.isSet(timing))
      QObject::connect(&window.document(), &Document::answered, &window, [&] {
        QTimer::singleShot(0, &window, [&] {
          std::fprintf(stderr, "answer drawn %lld ms after the start\n",
                       static_cast<long long>(clock.elapsed()));
        });
      });
    return QApplication::exec();
  }();
  app.keep = nullptr;
  // Every piece of work was asked to end with the window; one that does not must not keep the program.
  if (!Background::endAll(std::chrono::seconds(2))) std::_Exit(status);
  return status;
}
