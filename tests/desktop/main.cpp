#include <gtest/gtest.h>

#include <QApplication>
#include <QStandardPaths>
#include <QStyleFactory>

#include "document/background.h"
#include "look/look.h"

int main(int argc, char** argv) {
  testing::InitGoogleTest(&argc, argv);
  // Discovery runs at build time, so the platform is chosen here and not by the test's environment.
  if (qEnvironmentVariableIsEmpty("QT_QPA_PLATFORM")) qputenv("QT_QPA_PLATFORM", "offscreen");
  QStandardPaths::setTestModeEnabled(true);
  QApplication app(argc, argv);
  QCoreApplication::setOrganizationName("level-conduit-test");
  QCoreApplication::setApplicationName("level-conduit-test");
  QApplication::setStyle(QStyleFactory::create("Fusion"));
  conduit::desktop::loadFonts();
  const int status = RUN_ALL_TESTS();
  return conduit::desktop::Background::endAll(std::chrono::seconds(20)) ? status : 1;
}
