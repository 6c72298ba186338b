// The window's commands: each registered once, by id.
#include <QApplication>
#include <QFileDialog>

#include "desk/app/command_search.h"
#include "desk/app/main_window.h"
#include "desk/look/theme.h"

namespace gq::desk {

void MainWindow::addCommands() {
    const QString stage = tr("Stage"), find_ = tr("Find"), help = tr("Help");
    addSeriesCommands();
    addEditCommands();
    addGuideCommands();
    addViewCommands();
    const QStringList names{tr("Gather"), tr("Find"), tr("Mend"), tr("Carry"), tr("Deliver")};
    for (int i = 0; i < kStages; ++i)
        m_actions->add(QStringLiteral("stage%1").arg(i), stage, names[i],
                       QStringLiteral("Ctrl+%1").arg(i + 1), tr("Go to the stage"),
                       [this, i] { setStage(Stage(i)); });
    m_actions->add("find", find_, tr("Find on this frame"), "Ctrl+F",
                   tr("Search the frame for blemishes"), [this] { find(false); });
    m_actions->add("findAll", find_, tr("Find on the whole series"), "Ctrl+Shift+F",
                   tr("Search every frame"), [this] { find(true); });
    m_actions->add("next", find_, tr("Next finding"), ".", tr("Select the next row of the ledger"),
                   [this] { m_ledger->step(1); });
    m_actions->add("previous", find_, tr("Previous finding"), ",",
                   tr("Select the previous row of the ledger"), [this] { m_ledger->step(-1); });
    m_actions->add("leave", find_, tr("Leave it"), "L",
                   tr("Leave the selected finding alone; again to reopen it"), [this] {
                       const auto id = m_document->selected();
                       m_ledger->step(1);
                       m_work->leave(id);
                   });
    m_actions->add("leaveAll", find_, tr("Leave all above the line"), "Ctrl+L",
                   tr("Leave every open finding of the frame above the line alone"),
                   [this] { m_work->leaveAllAbove(); });
    m_actions->add("carryRun", tr("Carry"), tr("Carry to the ticked frames"), "Ctrl+Return",
                   tr("Carry the reference frame's mends"), [this] {
                       setStage(Stage::Carry);
                       m_carry->carry();
                   });
    m_actions->add(
        "asIGo", tr("Carry"), tr("Carry as I go"), "C",
        tr("Each mend of the reference goes to the ticked frames at once; again to stop"),
        [this] { m_live->setOn(!m_live->on()); });
    m_actions->add("deliverRun", tr("Deliver"), tr("Deliver the ticked frames"), "Ctrl+E",
                   tr("Write the finished files"), [this] {
                       setStage(Stage::Deliver);
                       m_deliver->deliver();
                   });
    m_actions->add("search", help, tr("Search commands"), "Ctrl+Space",
                   tr("Find any command by its words"),
                   [this] { (new CommandSearch(*m_actions, this))->show(); });
    m_actions->add("keys", help, tr("Keys"), "F1", tr("See and change all keys"),
                   [this] { askPreferences(true); });
}

void MainWindow::addSeriesCommands() {
    const QString series = tr("Series");
    m_actions->add("open", series, tr("Open…"), "Ctrl+O",
                   tr("Open a folder of pictures, or a series"), [this] { askFolder(); });
    m_actions->add("add", series, tr("Add frames…"), "Ctrl+Shift+O",
                   tr("Add pictures to the series"), [this] {
                       const QStringList names = QFileDialog::getOpenFileNames(
                           this, tr("Add frames"), {},
                           tr("Pictures (*.jpg *.jpeg *.png *.tif *.tiff *.dng);;All files (*)"));
                       std::vector<std::filesystem::path> files;
                       for (const auto& n : names) files.emplace_back(n.toStdString());
                       if (!files.empty()) m_document->addFrames(files);
                   });
    m_actions->add("reference", series, tr("Make this frame the reference"), {},
                   tr("The frame on which the dust shows best"), [this] {
                       if (const auto f = m_document->current()) m_work->setReference(f->id);
                   });
    m_actions->add("takeOut", series, tr("Take this frame out of the series"), {},
                   tr("Its file stays where it is; Delete does the same on the contact sheet"),
                   [this] {
                       if (const auto f = m_document->current()) m_gather->takeOut(f->id);
                   });
    m_actions->add("orderByName", series, tr("Order the frames by name"), {},
                   tr("In the contact sheet and everywhere else"),
                   [this] { m_gather->order(series::Order::Name); });
    m_actions->add("orderByTime", series, tr("Order the frames by time"), {},
                   tr("When they were taken; those that do not tell come last"),
                   [this] { m_gather->order(series::Order::Taken); });
    m_actions->add("locate", series, tr("Locate missing pictures…"), {},
                   tr("Choose a folder; pictures below it are told by their content"),
                   [this] { askLocation(); });
    m_actions->add("quit", series, tr("Quit"), "Ctrl+Q", tr("Everything is saved already"),
                   [this] { close(); });
}

void MainWindow::addGuideCommands() {
    const QString guide = tr("Guide");
    const auto hold = [this](Tool tool) {
        return [this, tool] {
            setStage(Stage::Find);
            m_bench->setTool(m_bench->tool() == tool ? Tool::Look : tool);
        };
    };
    m_actions->add("heed", guide, tr("Heed: search harder here"), "H",
                   tr("Paint; each stroke adds up"), hold(Tool::Heed));
    m_actions->add("hush", guide, tr("Hush: search less here"), "J",
                   tr("Paint; each stroke adds up"), hold(Tool::Hush));
    m_actions->add("shield", guide, tr("Shield: find nothing here"), "S",
                   tr("Paint what is not to be searched"), hold(Tool::Shield));
    m_actions->add("bounds", guide, tr("Bounds: search only here"), "U",
                   tr("Paint the only area to search, and for a Rebuild in it to copy from"),
                   hold(Tool::Bounds));
    m_actions->add("smoothOnly", guide, tr("Bounds: smooth areas only"), {},
                   tr("Skies, water, walls; worked out from the picture"),
                   [this] { m_guides->smoothOnly(); });
    m_actions->add("carryGuides", guide, tr("Carry the guides to the ticked frames"), {},
                   tr("To frames of the same sensor"), [this] { m_guides->carry(); });
    m_actions->add("clearGuides", guide, tr("Clear all guides"), {}, tr("Of this frame"),
                   [this] { m_guides->clearAll(); });
}

void MainWindow::addEditCommands() {
    const QString edit = tr("Edit"), mend = tr("Mend");
    m_actions->add("undo", edit, tr("Undo"), "Ctrl+Z", tr("Take the last step back"),
                   [this] { m_document->undo(); });
    m_actions->add("redo", edit, tr("Redo"), "Ctrl+Shift+Z", tr("Do the step again"),
                   [this] { m_document->redo(); });
    m_actions->add("stop", edit, tr("Stop"), "Esc",
                   tr("Stop the running job, or drop the selection"), [this] {
                       if (m_jobs->showing())
                           m_jobs->stopShown();
                       else if (m_bench->dropShape())
                           return;
                       else if (m_bench->tool() != Tool::Look && !mends(m_bench->tool()))
                           m_bench->setTool(Tool::Look);
                       else
                           m_document->select(0);
                   });
    m_actions->add("preferences", edit, tr("Preferences…"), "Ctrl+,",
                   tr("Light or dark, the grey around the picture, keys"),
                   [this] { askPreferences(false); });
    m_actions->add("mend", mend, tr("Mend it"), "M", tr("Mend the selected finding"),
                   [this] { m_work->mendOne(m_document->selected()); });
    m_actions->add("mendAll", mend, tr("Mend all above the line"), "Ctrl+M",
                   tr("Mend every open finding of the frame above the line"),
                   [this] { m_work->mendAllAbove(); });
    m_actions->add("erase", mend, tr("Delete the mend"), "Backspace", tr("The blemish comes back"),
                   [this] { m_work->erase(); });
    m_actions->add("another", mend, tr("Another result"), "N",
                   tr("The next candidate of the selected mend"), [this] { m_mends->another(); });
    m_actions->add("source", mend, tr("Source from under the pointer"), "F",
                   tr("Take the selected mend's texture from there"),
                   [this] { m_bench->sourceFromPointer(); });
    m_actions->add("lend", mend, tr("Source from another frame"), "Shift+F",
                   tr("Take the place from a frame of the same scene that shows it clean"),
                   [this] { m_mends->lendFromAnotherFrame(); });
    const auto hold = [this](Tool tool) {
        return [this, tool] {
            setStage(Stage::Mend);
            m_bench->setTool(tool);
        };
    };
    m_actions->add("touch", mend, tr("Touch tool"), "T", tr("Click or drag a mend"),
                   hold(Tool::Touch));
    m_actions->add("path", mend, tr("Path tool"), "P", tr("Click from end to end of a line"),
                   hold(Tool::Path));
    m_actions->add("outline", mend, tr("Outline tool"), "O", tr("Draw around an area"),
                   hold(Tool::Outline));
    m_actions->add("touchIn", mend, tr("Touch-in tool"), "I", tr("Paint a tone with its grain"),
                   hold(Tool::TouchIn));
    m_actions->add("sift", mend, tr("Sift tool"), "D", tr("Draw around specks"), hold(Tool::Sift));
    m_actions->add("mute", mend, tr("Mute the mend"), "Shift+M", tr("Keep it without applying it"),
                   [this] {
                       if (const auto* m = m_document->selectedMend()) m_mends->setMuted(!m->muted);
                   });
    m_actions->add("grow", mend, tr("Grow the outline"), "]", tr("By 1 px"),
                   [this] { m_mends->grow(1); });
    m_actions->add("shrink", mend, tr("Shrink the outline"), "[", tr("By 1 px"),
                   [this] { m_mends->grow(-1); });
    m_actions->list(mend, tr("Tool size: Shift and wheel"), "Shift+wheel");
    m_actions->list(mend, tr("Softness: Ctrl, Shift and wheel"), "Ctrl+Shift+wheel");
    m_actions->add("larger", mend, tr("Larger tool"), "=", tr("Shift and wheel does the same"),
                   [this] { m_bench->setToolSize(m_bench->toolSize() * 1.15f + 0.5f); });
    m_actions->add("smaller", mend, tr("Smaller tool"), "-", tr("Shift and wheel does the same"),
                   [this] { m_bench->setToolSize(m_bench->toolSize() / 1.15f - 0.5f); });
}

void MainWindow::addViewCommands() {
    const QString view = tr("View");
    m_actions->hold("before", view, tr("Before, while held"), "B");
    m_actions->add("wipe", view, tr("Wipe compare"), "W",
                   tr("Before and after with a seam to drag"),
                   [this] { m_bench->toggle(Compare::Wipe); });
    m_actions->add("beside", view, tr("Side by side"), "Y",
                   tr("Before on the left, after on the right, moved and magnified together"),
                   [this] { m_bench->toggle(Compare::Beside); });
    m_actions->add("changed", view, tr("What changed"), "Shift+W",
                   tr("What before and after differ in, made visible"),
                   [this] { m_bench->toggle(Compare::Changed); });
    m_actions->add("quiet", view, tr("Quiet: hide marks"), "Q", tr("Show or hide all marks"),
                   [this] { m_bench->toggleQuiet(); });
    m_actions->add("raking", view, tr("Raking light"), "R",
                   tr("Relief of local contrast, on and off"), [this] {
                       auto light = m_bench->light();
                       light.light = light.light == render::Light::Raking ? render::Light::Plain
                                                                          : render::Light::Raking;
                       m_bench->setLight(light);
                   });
    m_actions->add("sought", view, tr("What Find sees"), "Shift+R",
                   tr("Departure from the surroundings over the local noise"), [this] {
                       auto light = m_bench->light();
                       light.light = light.light == render::Light::Sought ? render::Light::Plain
                                                                          : render::Light::Sought;
                       m_bench->setLight(light);
                   });
    m_actions->add("round", view, tr("Rounds: next cell"), "G",
                   tr("Walk over the frame cell by cell at 100 % or more"),
                   [this] { m_bench->goRound(1); });
    m_actions->add("roundBack", view, tr("Rounds: previous cell"), "Shift+G", tr("Walk back"),
                   [this] { m_bench->goRound(-1); });
    m_actions->add("screenCheck", view, tr("Screen check"), "K",
                   tr("The picture moves a little and back; dust on the screen does not"),
                   [this] { m_bench->screenCheck(); });
    m_actions->add("fit", view, tr("Fit, or 100 %"), "Z",
                   tr("Switch between the whole picture and full size"),
                   [this] { m_bench->fitOrFull(); });
    for (const int percent : {100, 200, 400})
        m_actions->add(QStringLiteral("zoom%1").arg(percent), view, tr("%1 %").arg(percent),
                       QString::number(percent / 100), tr("Zoom"), [this, percent] {
                           m_bench->zoomTo(
                               percent / 100.0 / m_bench->devicePixelRatioF(),
                               QPointF(m_bench->width() / 2.0, m_bench->height() / 2.0));
                       });
    m_actions->add("nextFrame", view, tr("Next frame"), "PgDown", tr("Look at the next frame"),
                   [this] { m_column->step(1); });
    m_actions->add("previousFrame", view, tr("Previous frame"), "PgUp",
                   tr("Look at the previous frame"), [this] { m_column->step(-1); });
    m_actions->add("column", view, tr("Show or hide the frames"), "F3",
                   tr("More room for the picture"),
                   [this] { m_column->setVisible(!m_column->isVisible()); });
    m_actions->add("side", view, tr("Show or hide the panel"), "F4",
                   tr("More room for the picture"),
                   [this] { m_side->setVisible(!m_side->isVisible()); });
    m_actions->add("theme", view, tr("Light or dark window"), {},
                   tr("The picture's surround stays the same grey"), [this] {
                       m_preferences.setDark(!theme().dark);
                       applyLook();
                       if (const auto problem = m_preferences.problem(); !problem.isEmpty())
                           note(problem);
                   });
}

}  // namespace gq::desk
