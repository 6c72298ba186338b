// What the user chooses for all series: keys, light or dark, the grey around the picture.
#include <QAction>
#include <QDialog>
#include <QLineEdit>
#include <QPushButton>
#include <QSettings>
#include <QTableWidget>
#include <QTimer>
#include <fstream>

#include "desk/document/live_carry.h"
#include "tests/desk/desk_kit.h"

namespace gq::desk {
namespace {

using testkit::press;

class PreferencesTest : public testkit::BenchTest {
  protected:
    void SetUp() override {
        forget();
        BenchTest::SetUp();
    }
    void TearDown() override { forget(); }
    static void forget() {
        QSettings file(QSettings::IniFormat, QSettings::UserScope, "gentle-quill", "preferences");
        file.clear();
    }
    /// Opens the preferences by a key and works in them while they are open.
    void inPreferences(const std::function<void(QDialog&)>& work, Qt::Key key = Qt::Key_F1,
                       Qt::KeyboardModifiers modifiers = Qt::NoModifier) {
        bool came = false;
        QTimer::singleShot(200, &w(), [&] {
            auto* dialog = qobject_cast<QDialog*>(QApplication::activeModalWidget());
            ASSERT_NE(dialog, nullptr);
            came = true;
            work(*dialog);
            dialog->close();
        });
        press(w(), key, modifiers);
        EXPECT_TRUE(came);
        w().activateWindow();  // there is no window manager to do it
        EXPECT_TRUE(QTest::qWaitForWindowActive(&w()));
    }
    /// Finds a command's row by its words and selects it.
    static void choose(QDialog& in, const char* words) {
        auto* filter = in.findChild<QLineEdit*>("keyWords");
        filter->clear();
        QTest::keyClicks(filter, words);
        auto* table = in.findChild<QTableWidget*>();
        for (int i = 0; i < table->rowCount(); ++i)
            if (!table->isRowHidden(i)) {
                QTest::mouseClick(table->viewport(), Qt::LeftButton, {},
                                  table->visualItemRect(table->item(i, 1)).center());
                return;
            }
        FAIL() << words << " is no command";
    }
    static void give(QDialog& in, const char* words, Qt::Key key,
                     Qt::KeyboardModifiers modifiers = Qt::NoModifier) {
        choose(in, words);
        QTest::keyClick(in.findChild<QLineEdit*>("newKey"), key, modifiers);
    }
    static QString told(QDialog& in) { return in.findChild<QLabel*>("look")->text(); }
    void reopen() {
        window.reset();
        window = testkit::windowOn(dir / "a");
        w().setStage(Stage::Find);
        testkit::settle(w());
    }
};

TEST_F(PreferencesTest, EveryCommandIsListedNoKeyTwice) {
    QStringList keys;
    inPreferences([&](QDialog& dialog) {
        auto* table = dialog.findChild<QTableWidget*>();
        EXPECT_GT(table->rowCount(), 60);
        for (int i = 0; i < table->rowCount(); ++i) keys << table->item(i, 2)->text();
    });
    keys.removeAll(QString());
    EXPECT_GT(keys.size(), 50);
    for (const char* key : {"Ctrl+Space", "W", "B", "C", "Ctrl+Shift+Z", "PgDown", "]"})
        EXPECT_TRUE(keys.contains(key)) << key;
    EXPECT_EQ(keys.removeDuplicates(), 0);
}

TEST_F(PreferencesTest, AKeyIsChangedHoldsAtOnceAndIsKept) {
    w().setStage(Stage::Find);
    inPreferences([](QDialog& dialog) {
        give(dialog, "wipe", Qt::Key_V, Qt::ShiftModifier);
        EXPECT_EQ(told(dialog), "");
    });
    press(w(), Qt::Key_W);
    EXPECT_EQ(bench().comparing(), Compare::None);
    press(w(), Qt::Key_V, Qt::ShiftModifier);
    EXPECT_EQ(bench().comparing(), Compare::Wipe);
    reopen();
    press(w(), Qt::Key_V, Qt::ShiftModifier);
    EXPECT_EQ(bench().comparing(), Compare::Wipe) << "in the next window too";
    inPreferences([](QDialog& dialog) {
        choose(dialog, "wipe");
        QTest::mouseClick(dialog.findChild<QPushButton*>("usualKey"), Qt::LeftButton);
    });
    press(w(), Qt::Key_W);
    EXPECT_EQ(bench().comparing(), Compare::None) << "W is its key again";
}

TEST_F(PreferencesTest, AKeyThatIsTakenOrNeededIsRefusedInWords) {
    inPreferences([](QDialog& dialog) {
        give(dialog, "wipe", Qt::Key_Q);
        EXPECT_TRUE(told(dialog).contains("Quiet")) << told(dialog).toStdString();
        give(dialog, "wipe", Qt::Key_Space);
        EXPECT_TRUE(told(dialog).contains("Space")) << told(dialog).toStdString();
        give(dialog, "wipe", Qt::Key_B);
        EXPECT_TRUE(told(dialog).contains("Before")) << told(dialog).toStdString();
        choose(dialog, "softness");
        EXPECT_FALSE(dialog.findChild<QLineEdit*>("newKey")->isEnabled()) << "the wheel's";
        // Once it is free, another command may have it.
        choose(dialog, "quiet");
        QTest::mouseClick(dialog.findChild<QPushButton*>("noKey"), Qt::LeftButton);
        give(dialog, "wipe", Qt::Key_Q);
        EXPECT_EQ(told(dialog), "");
        QTest::mouseClick(dialog.findChild<QPushButton*>("usualKeys"), Qt::LeftButton);
    });
    w().setStage(Stage::Find);
    press(w(), Qt::Key_W);
    EXPECT_EQ(bench().comparing(), Compare::Wipe) << "all keys as they came";
}

TEST_F(PreferencesTest, BeforeIsHeldByItsNewKey) {
    w().setStage(Stage::Mend);
    click({250, 200});
    ASSERT_EQ(frame()->mends.size(), 1u);
    inPreferences([](QDialog& dialog) { give(dialog, "before, while", Qt::Key_E); });
    const QPoint spot = testkit::onBench(w(), {250, 200});
    const auto tone = [&] { return qGray(bench().grab().toImage().pixel(spot)); };
    const int mended = tone();
    QTest::keyPress(&bench(), Qt::Key_B);
    EXPECT_NEAR(tone(), mended, 2);
    QTest::keyRelease(&bench(), Qt::Key_B);
    QTest::keyPress(&bench(), Qt::Key_E);
    EXPECT_LT(tone(), mended - 8) << "the dust";
    QTest::keyRelease(&bench(), Qt::Key_E);
    EXPECT_NEAR(tone(), mended, 2);
}

TEST_F(PreferencesTest, TipsAndButtonsTellTheKeyThatHolds) {
    const auto tool = [&] {
        for (auto* b : w().findChildren<QPushButton*>("tool"))
            if (b->text() == "Outline") return b->toolTip();
        return QString();
    };
    EXPECT_TRUE(tool().endsWith("(O)")) << tool().toStdString();
    w().setStage(Stage::Find);
    inPreferences([](QDialog& dialog) {
        give(dialog, "find on this", Qt::Key_F6);
        give(dialog, "outline tool", Qt::Key_F9);
        give(dialog, "another result", Qt::Key_F8);
        give(dialog, "mend it", Qt::Key_F7);
    });
    EXPECT_TRUE(tool().endsWith("(F9)")) << tool().toStdString();
    const auto words = w().ledger().findChildren<QLabel*>();
    EXPECT_TRUE(std::any_of(words.begin(), words.end(), [](const auto* l) {
        return l->text().contains("Find on it (F6)");
    })) << "what an empty list says";
    auto* another = w().findChild<QPushButton*>("anotherResult");
    EXPECT_EQ(another->text(), "Another  F8");
    EXPECT_EQ(another->toolTip(), "The next result") << "not told twice";
    const auto buttons = w().ledger().findChildren<QPushButton*>();
    EXPECT_TRUE(std::any_of(buttons.begin(), buttons.end(),
                            [](const auto* b) { return b->text() == "Mend  F7"; }));
}

TEST_F(PreferencesTest, TheGreyAroundThePictureAndALightWindowAreKept) {
    w().setStage(Stage::Find);
    bench().zoomTo(0.1, QPointF(bench().width() / 2.0, bench().height() / 2.0));
    testkit::settle(w());
    const auto surround = [&] {
        return qGray(bench().grab(QRect(4, 4, 2, 2)).toImage().pixel(0, 0));
    };
    EXPECT_EQ(surround(), 118) << "18 %";
    inPreferences(
        [](QDialog& dialog) {
            auto* percent = dialog.findChild<QWidget*>("surround")->findChild<QSpinBox*>();
            percent->setValue(40);
            QTest::mouseClick(dialog.findChild<QPushButton*>("light"), Qt::LeftButton);
        },
        Qt::Key_Comma, Qt::ControlModifier);
    EXPECT_EQ(surround(), 170) << "40 %";
    EXPECT_FALSE(theme().dark);
    const Preferences kept;
    EXPECT_EQ(kept.surround(), 40);
    EXPECT_FALSE(kept.dark());
    applyTheme(true);
}

TEST_F(PreferencesTest, AFileThatCannotBeWrittenIsSaidAndSpoiledValuesAreIgnored) {
    const auto folder = dir / "taken";
    std::filesystem::create_directories(folder);
    std::ofstream(folder / "gentle-quill") << "a file where the folder should be";
    const QString before =
        QFileInfo(
            QSettings(QSettings::IniFormat, QSettings::UserScope, "gentle-quill", "x").fileName())
            .dir()
            .path();
    const auto keepIn = [](const QString& path) {
        QSettings::setPath(QSettings::IniFormat, QSettings::UserScope, path);
    };
    keepIn(QString::fromStdString(folder.string()));
    Preferences lost;
    lost.setSurround(30);
    EXPECT_TRUE(lost.problem().contains("gentle-quill")) << lost.problem().toStdString();
    keepIn(QFileInfo(before).dir().path());
    Preferences mine;
    mine.setSurround(4000);
    EXPECT_EQ(mine.surround(), Preferences::kUsual);
    EXPECT_EQ(mine.problem(), "");
}

TEST_F(PreferencesTest, KeysThatAFileEditedByHandGivesTwiceStayAsTheyCame) {
    QSettings file(QSettings::IniFormat, QSettings::UserScope, "gentle-quill", "preferences");
    file.setValue("keys/wipe", "Q");   // the key of another command
    file.setValue("keys/sift", "F7");  // given to two: one keeps it
    file.setValue("keys/changed", "F7");
    file.setValue("keys/beside", "Left");  // the picture's own
    file.sync();
    reopen();
    press(w(), Qt::Key_W);
    EXPECT_EQ(bench().comparing(), Compare::Wipe);
    press(w(), Qt::Key_F7);
    EXPECT_EQ(bench().comparing(), Compare::Changed);
    inPreferences([](QDialog& dialog) {
        auto* table = dialog.findChild<QTableWidget*>();
        QStringList keys;
        for (int i = 0; i < table->rowCount(); ++i) keys << table->item(i, 2)->text();
        keys.removeAll(QString());
        EXPECT_EQ(keys.removeDuplicates(), 0);
        EXPECT_FALSE(keys.contains("Left  · yours"));
    });
}

TEST_F(PreferencesTest, CarryAsIGoHasItsKey) {
    EXPECT_FALSE(w().liveCarry().on());
    press(w(), Qt::Key_C);
    EXPECT_TRUE(w().liveCarry().on());
    press(w(), Qt::Key_C);
    EXPECT_FALSE(w().liveCarry().on());
}

}  // namespace
}  // namespace gq::desk
