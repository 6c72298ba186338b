// The window as such: commands by their words, light and dark.
#include <QAction>
#include <QDialog>
#include <QLineEdit>
#include <QListWidget>
#include <QPushButton>

#include "tests/desk/desk_kit.h"

namespace gq::desk {
namespace {

using testkit::press;

class Help : public testkit::BenchTest {
  protected:
    /// The dialog that searches commands, opened by its key.
    QDialog* search() {
        press(w(), Qt::Key_Space, Qt::ControlModifier);
        for (auto* d : w().findChildren<QDialog*>())
            if (d->isVisible() && d->findChild<QListWidget*>()) return d;
        return nullptr;
    }
    /// Mean brightness of a part of the window as it is drawn, 0..255.
    double brightness(QWidget* of, QRect part) {
        const QImage drawn = of->grab(part).toImage();
        double sum = 0;
        for (int y = 0; y < drawn.height(); ++y)
            for (int x = 0; x < drawn.width(); ++x) sum += qGray(drawn.pixel(x, y));
        return sum / double(drawn.width() * drawn.height());
    }
};

TEST_F(Help, ACommandIsFoundByItsWordsAndRun) {
    QDialog* dialog = search();
    ASSERT_NE(dialog, nullptr);
    auto* list = dialog->findChild<QListWidget*>();
    const int all = list->count();
    EXPECT_GT(all, 50);
    auto* words = dialog->findChild<QLineEdit*>();
    QTest::keyClicks(words, "seam drag");
    ASSERT_EQ(list->count(), 1) << "its help says so, in whatever order";
    EXPECT_TRUE(list->item(0)->text().contains("Wipe"));
    EXPECT_TRUE(list->item(0)->text().endsWith("W")) << "its key is learned by the way";
    QTest::keyClick(words, Qt::Key_Return);
    testkit::settle(w());
    EXPECT_EQ(bench().comparing(), Compare::Wipe);
    EXPECT_EQ(search()->findChild<QListWidget*>()->count(), all);
}

TEST_F(Help, ArrowsChooseAmongCommandsAndNonsenseRunsNone) {
    QDialog* dialog = search();
    ASSERT_NE(dialog, nullptr);
    auto* words = dialog->findChild<QLineEdit*>();
    auto* list = dialog->findChild<QListWidget*>();
    QTest::keyClicks(words, "go to the stage");
    ASSERT_GE(list->count(), 5);
    QTest::keyClick(words, Qt::Key_Down);
    QTest::keyClick(words, Qt::Key_Down);
    EXPECT_TRUE(list->currentItem()->text().contains("Mend")) << "Gather, Find, Mend";
    QTest::keyClick(words, Qt::Key_Return);
    testkit::settle(w());
    EXPECT_EQ(w().rail().stage(), Stage::Mend);
    dialog = search();
    words = dialog->findChild<QLineEdit*>();
    QTest::keyClicks(words, "qqq");
    EXPECT_EQ(dialog->findChild<QListWidget*>()->count(), 0);
    QTest::keyClick(words, Qt::Key_Return);
    EXPECT_TRUE(dialog->isVisible()) << "to be typed anew";
    QTest::keyClick(words, Qt::Key_Escape);
    EXPECT_TRUE(frame()->mends.empty());
}

TEST_F(Help, ALightWindowHasDarkIconsAndTheSameSurround) {
    QPushButton* add = nullptr;
    for (auto* b : w().findChildren<QPushButton*>())
        if (!b->icon().isNull() && b->isVisible()) add = b;
    ASSERT_NE(add, nullptr);
    const auto iconTone = [&] {
        const QImage icon = add->icon().pixmap(20, 20).toImage();
        double sum = 0;
        int n = 0;
        for (int y = 0; y < icon.height(); ++y)
            for (int x = 0; x < icon.width(); ++x)
                if (qAlpha(icon.pixel(x, y)) > 200) sum += qGray(icon.pixel(x, y)), ++n;
        return n ? sum / n : -1;
    };
    QAction* theme = nullptr;
    for (auto* a : w().findChildren<QAction*>())
        if (a->text().contains("Light or dark")) theme = a;
    ASSERT_NE(theme, nullptr);
    const QRect corner(4, 4, 12, 12);
    const auto panel = [&] {
        return brightness(&w(), QRect(w().width() - 8, w().height() / 2, 4, 4));
    };
    bench().zoomTo(0.1, QPointF(bench().width() / 2.0, bench().height() / 2.0));
    testkit::settle(w());
    const double dark = panel(), surround = brightness(&bench(), corner);
    EXPECT_LT(dark, 90);
    EXPECT_GT(iconTone(), 150);
    theme->trigger();
    testkit::settle(w());
    EXPECT_GT(panel(), 170);
    EXPECT_LT(iconTone(), 90) << "on a light button";
    EXPECT_EQ(brightness(&bench(), corner), surround);
    theme->trigger();
}

}  // namespace
}  // namespace gq::desk
