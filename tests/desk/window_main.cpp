#include <gtest/gtest.h>

#include <QApplication>
#include <QSettings>
#include <QTemporaryDir>

int main(int argc, char** argv) {
    if (!qEnvironmentVariableIsSet("QT_QPA_PLATFORM")) qputenv("QT_QPA_PLATFORM", "offscreen");
    testing::InitGoogleTest(&argc, argv);
    QApplication app(argc, argv);
    const QTemporaryDir preferences;  // nobody's own are read or written
    QSettings::setPath(QSettings::IniFormat, QSettings::UserScope, preferences.path());
    return RUN_ALL_TESTS();
}
