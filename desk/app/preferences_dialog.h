#pragma once
#include <QDialog>
#include <QLabel>
#include <QLineEdit>
#include <QPushButton>
#include <QTableWidget>

#include "desk/app/actions.h"
#include "desk/app/key_field.h"

namespace gq::desk {

/// Light or dark, the grey around the picture, and all keys. What is chosen holds at once.
class PreferencesDialog : public QDialog {
    Q_OBJECT
  public:
    PreferencesDialog(Actions& actions, Preferences& preferences, QWidget* parent);
    /// Goes to the list of keys.
    void showKeys();

  signals:
    void lookChanged();

  private:
    QWidget* makeLook();
    QWidget* makeKeyRow();
    void fillKeys();
    void narrow(const QString& words);
    [[nodiscard]] const Actions::Command* chosen() const;
    void showChosen();
    void give(const QKeySequence& key);
    void tell(const QString& words);

    Actions& m_actions;
    Preferences& m_preferences;
    QLineEdit* m_words;
    QTableWidget* m_keys;
    QLabel *m_name, *m_told;
    KeyField* m_field;
    QPushButton *m_none, *m_usual;
};

}  // namespace gq::desk
