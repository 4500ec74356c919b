#include <QDir>
#include <QFile>
#include <QTemporaryDir>
#include <cstdio>
#include <mutex>
#include <string>
#include <vector>

#include "desktop/application.h"
#include "desktop/theme.h"
#include "support/run_tests.h"

namespace {

std::mutex mutex;
std::vector<std::string> warnings;

/// Qt's warnings fail the test; only what the platform without a screen says of itself does not count.
void hear(QtMsgType type, const QMessageLogContext&, const QString& text) {
    if (text.startsWith("This plugin does not support")) return;
    std::fprintf(stderr, "%s\n", qPrintable(text));
    if (type == QtDebugMsg || type == QtInfoMsg) return;
    const std::lock_guard lock(mutex);
    warnings.push_back(text.toStdString());
}

}  // namespace

int main(int argc, char** argv) {
    qputenv("QT_QPA_PLATFORM", "offscreen");
    // Tests run side by side: what one of them remembers (recent studies, sizes) is nothing to the others.
    const QTemporaryDir home;
    for (const char* folder : {"XDG_RUNTIME_DIR", "XDG_CONFIG_HOME", "XDG_DATA_HOME", "XDG_CACHE_HOME"}) {
        const QString path = home.filePath(QString::fromLatin1(folder).toLower());
        QDir().mkpath(path);
        QFile::setPermissions(path, QFile::ReadOwner | QFile::WriteOwner | QFile::ExeOwner);
        qputenv(folder, path.toUtf8());
    }
    qInstallMessageHandler(hear);
    otoro::desktop::Application app(argc, argv);
    QApplication::setApplicationName("otoro-test");
    QApplication::setOrganizationName("otoro-test");
    otoro::desktop::theme::apply(app, 10);
    const int failed = otoro::test::run_tests(argc, argv);
    const std::lock_guard lock(mutex);
    if (!warnings.empty()) std::fprintf(stderr, "%zu warnings of Qt; a test fails on one\n", warnings.size());
    return failed != 0 ? failed : warnings.empty() ? 0 : 1;
}
