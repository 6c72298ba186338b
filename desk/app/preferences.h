#pragma once
#include <QKeySequence>
#include <QSettings>
#include <QString>
#include <optional>

namespace gq::desk {

/// What the user chose for all series: a small file in their configuration folder, written at every
/// change. Values that a file edited by hand has out of range count as not chosen.
class Preferences {
  public:
    static constexpr int kDarkest = 2, kUsual = 18, kLightest = 60;  ///< reflectance, %

    Preferences();
    [[nodiscard]] bool dark() const;
    void setDark(bool dark);
    /// Reflectance of the grey around the picture, %.
    [[nodiscard]] int surround() const;
    void setSurround(int percent);
    /// The key chosen for a command, which may be none; nothing when it is as it comes.
    [[nodiscard]] std::optional<QKeySequence> key(const QString& command) const;
    void setKey(const QString& command, const std::optional<QKeySequence>& key);
    /// Why the last change could not be written, in words; empty when it was.
    [[nodiscard]] QString problem() const;

  private:
    void set(const QString& name, const QVariant& value);
    QSettings m_file;
};

}  // namespace gq::desk
