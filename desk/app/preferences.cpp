#include "desk/app/preferences.h"

#include <QCoreApplication>

namespace gq::desk {

Preferences::Preferences()
    : m_file(QSettings::IniFormat, QSettings::UserScope, "gentle-quill", "preferences") {}

bool Preferences::dark() const {
    return m_file.value("window/dark", true).toBool();
}

void Preferences::setDark(bool dark) {
    set("window/dark", dark);
}

int Preferences::surround() const {
    const int percent = m_file.value("window/surround", kUsual).toInt();
    return percent < kDarkest || percent > kLightest ? kUsual : percent;
}

void Preferences::setSurround(int percent) {
    set("window/surround", percent);
}

std::optional<QKeySequence> Preferences::key(const QString& command) const {
    const QVariant chosen = m_file.value("keys/" + command);
    if (!chosen.isValid()) return std::nullopt;
    const QKeySequence key(chosen.toString());
    if (key.isEmpty() && !chosen.toString().isEmpty()) return std::nullopt;
    return key;
}

void Preferences::setKey(const QString& command, const std::optional<QKeySequence>& key) {
    set("keys/" + command, key ? QVariant(key->toString()) : QVariant());
}

QString Preferences::problem() const {
    if (m_file.status() == QSettings::NoError && m_file.isWritable()) return {};
    return QCoreApplication::translate(
               "Preferences",
               "%1 can't be written: what you choose holds until the window is closed. Make the "
               "file and its folder writable.")
        .arg(m_file.fileName());
}

void Preferences::set(const QString& name, const QVariant& value) {
    if (value.isValid())
        m_file.setValue(name, value);
    else
        m_file.remove(name);
    m_file.sync();
}

}  // namespace gq::desk
