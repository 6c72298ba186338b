#include <QApplication>
#include <QCommandLineParser>
#include <QIcon>

#include "core/pixels/memory.h"
#include "desk/app/main_window.h"
#include "desk/look/theme.h"

int main(int argc, char** argv) {
    gq::keepFreedMemory();
    QApplication app(argc, argv);
    QApplication::setApplicationName("gentle-quill");
    QApplication::setApplicationDisplayName("Gentle Quill");
    QApplication::setApplicationVersion(GQ_VERSION);
    QCommandLineParser parser;
    parser.setApplicationDescription("Cleans dust, scratches and stains from series of pictures.");
    parser.addHelpOption();
    parser.addVersionOption();
    parser.addPositionalArgument("path", "a series folder, a folder of pictures, or pictures",
                                 "[path...]");
    parser.process(app);
    const gq::desk::Preferences preferences;
    gq::desk::applyTheme(preferences.dark(), preferences.surround() / 100.0);
    QApplication::setWindowIcon(QIcon(":/icons/gentle-quill.svg"));
    gq::desk::MainWindow window;
    window.show();
    std::vector<std::filesystem::path> paths;
    for (const auto& p : parser.positionalArguments()) paths.emplace_back(p.toStdString());
    if (!paths.empty()) window.open(paths);
    return QApplication::exec();
}
