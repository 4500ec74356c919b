#define CATCH_CONFIG_RUNNER
#include <QApplication>
#include <QStandardPaths>
#include <catch2/catch.hpp>

#include "desktop/theme.h"

int main(int argc, char** argv) {
    qputenv("QT_QPA_PLATFORM", "offscreen");
    QStandardPaths::setTestModeEnabled(true);
    QApplication app(argc, argv);
    QApplication::setApplicationName("otoro-test");
    QApplication::setOrganizationName("otoro-test");
    otoro::desktop::theme::apply(app);
    return Catch::Session().run(argc, argv);
}
