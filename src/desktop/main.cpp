#include <QCommandLineParser>

#include "desktop/application.h"
#include "desktop/main_window.h"
#include "desktop/theme.h"
#include "desktop/words.h"

int main(int argc, char** argv) {
    otoro::desktop::Application app(argc, argv);
    QApplication::setApplicationName("otoro");
    QApplication::setOrganizationName("otoro");
    QApplication::setApplicationVersion("0.1.0");
    QApplication::setDesktopFileName("org.otoro.Otoro");
    QApplication::setWindowIcon(QIcon(":/otoro.svg"));
    QCommandLineParser parser;
    parser.setApplicationDescription(
        QCoreApplication::translate("main", "Who is served by whom, and does that meet the standard"));
    parser.addHelpOption();
    parser.addVersionOption();
    parser.addPositionalArgument("files", QCoreApplication::translate("main", "A study to open, or files to add"),
                                 "[files...]");
    parser.process(app);

    otoro::desktop::theme::apply(app);
    otoro::desktop::take_wording();
    otoro::desktop::MainWindow window;
    QObject::connect(&app, &otoro::desktop::Application::trouble, &window, &otoro::desktop::MainWindow::tell_trouble);
    window.show();
    for (const auto& file : parser.positionalArguments()) window.take_file(file);
    return QApplication::exec();
}
