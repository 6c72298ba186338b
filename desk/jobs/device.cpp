#include "desk/jobs/device.h"

#include <QProcess>
#include <QRegularExpression>

namespace gq::desk {

Status runDevice(const QString& program, const QStringList& arguments, const Progress& progress,
                 std::stop_token stop) {
    QProcess process;
    process.start(program, arguments);
    if (!process.waitForStarted())
        return fail(Error::Kind::NotFound, "the simulated device does not answer",
                    program.toStdString(), "Install the whole application.");
    const QRegularExpression percent(QStringLiteral("(\\d+) %"));
    QString said;
    while (process.state() != QProcess::NotRunning) {
        process.waitForFinished(100);
        if (stop.stop_requested()) {
            process.kill();
            process.waitForFinished();
            return cancelled();
        }
        said += QString::fromUtf8(process.readAllStandardError());
        auto all = percent.globalMatch(said);
        while (all.hasNext()) progress(all.next().captured(1).toDouble() / 100);
        said = said.right(400);
    }
    if (process.exitStatus() != QProcess::NormalExit || process.exitCode() != 0)
        return fail(Error::Kind::Unreadable, "the device stopped: " + said.trimmed().toStdString(),
                    program.toStdString(), "Try again with another folder.");
    return {};
}

}  // namespace gq::desk
