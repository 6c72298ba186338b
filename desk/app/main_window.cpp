#include "desk/app/main_window.h"

#include <QFileDialog>
#include <QKeyEvent>
#include <QMenu>
#include <QMenuBar>
#include <QTimer>
#include <QVBoxLayout>

#include "desk/app/preferences_dialog.h"
#include "desk/jobs/device.h"
#include "desk/look/convert.h"
#include "desk/look/theme.h"

namespace gq::desk {

MainWindow::MainWindow(QWidget* parent) : QMainWindow(parent) {
    m_jobs = new Jobs(this);
    m_document = new DeskDocument(*m_jobs, this);
    m_pictures = new Pictures(*m_document, *m_jobs, this);
    m_crops = new Crops(*m_document, *m_pictures, *m_jobs, this);
    m_work = new Work(*m_document, *m_pictures, *m_jobs, this);
    m_live = new LiveCarry(*m_document, *m_jobs, this);
    m_gather = new GatherWork(*m_document, *m_jobs, this);
    m_frames = new FrameModel(*m_document, *m_crops, *m_gather, this);
    m_actions = new Actions(this, m_preferences);
    build();
    addCommands();
    m_actions->fill(*menuBar());
    m_actions->settleKeys();
    m_actions->nameKeys();
    connectParts();
    resize(1280, 800);
    setMinimumSize(1000, 640);
    setStage(Stage::Gather);
    refresh();
}

MainWindow::~MainWindow() {
    // Workers end first, so that no result arrives at parts that are gone.
    delete m_jobs;
}

void MainWindow::build() {
    m_rail = new StageRail(*m_document, *m_work, *m_live);
    m_column = new FrameColumn(*m_document, *m_frames, *m_crops);
    m_guides = new GuideWork(*m_document, *m_pictures, *m_jobs, this);
    m_mends = new MendWork(*m_document, *m_pictures, *m_work, *m_jobs, this);
    m_bench = new BenchView(*m_document, *m_pictures, *m_work, *m_mends, *m_guides, *m_jobs);
    m_tray = new Tray(*m_document, *m_guides, *m_bench, *m_jobs);
    m_ledger = new LedgerPanel(*m_document, *m_work, *m_mends, *m_crops);
    m_sheet = new ContactSheet(*m_document, *m_frames, *m_crops);
    m_series = new SeriesPanel(*m_document, *m_work, *m_gather, *m_crops);
    m_board = new CarryBoard(*m_document, *m_work, *m_crops);
    m_carry = new CarryPanel(*m_document, *m_work, *m_live, *m_jobs);
    m_deliver = new DeliverPanel(*m_document, *m_work, *m_jobs);
    m_queue = new DeliveryQueue(*m_document, *m_work, *m_deliver, *m_crops);
    m_centre = new QStackedWidget;
    for (QWidget* w : {static_cast<QWidget*>(m_sheet), static_cast<QWidget*>(m_bench),
                       static_cast<QWidget*>(m_board), static_cast<QWidget*>(m_queue)})
        m_centre->addWidget(w);
    m_side = new QStackedWidget;
    for (QWidget* w : {static_cast<QWidget*>(m_series), static_cast<QWidget*>(m_ledger),
                       static_cast<QWidget*>(m_carry), static_cast<QWidget*>(m_deliver)}) {
        w->setAttribute(Qt::WA_StyledBackground);
        m_side->addWidget(w);
    }
    m_notice = new Notice;
    auto* middle = new QWidget;
    middle->setMinimumWidth(360);
    auto* column = new QVBoxLayout(middle);
    column->setContentsMargins(0, 0, 0, 0);
    column->setSpacing(0);
    column->addWidget(m_notice);
    column->addWidget(m_centre, 1);
    column->addWidget(m_tray);
    auto* split = new QSplitter(Qt::Horizontal);
    split->setHandleWidth(1);
    m_column->setMinimumWidth(104);
    m_side->setMinimumWidth(264);
    split->addWidget(m_column);
    split->addWidget(middle);
    split->addWidget(m_side);
    split->setStretchFactor(1, 1);
    split->setSizes({132, 756, 316});
    auto* whole = new QWidget;
    auto* row = new QHBoxLayout(whole);
    row->setContentsMargins(0, 0, 0, 0);
    row->setSpacing(0);
    row->addWidget(m_rail);
    row->addWidget(split, 1);
    setCentralWidget(whole);
    m_saveState = new QLabel;
    m_saveState->setObjectName("dim");
    m_saveState->setContentsMargins(0, 0, 12, 0);
    m_saveState->setAlignment(Qt::AlignRight | Qt::AlignVCenter);
    m_saveState->setFixedSize(260, 26);
    menuBar()->setCornerWidget(m_saveState);
}

void MainWindow::connectParts() {
    connect(m_rail, &StageRail::chosen, this, &MainWindow::setStage);
    connect(m_document, &DeskDocument::failed, this, &MainWindow::tell);
    connect(m_document, &DeskDocument::opened, this, [this] { setStage(Stage::Gather); });
    for (auto signal : {&DeskDocument::changed, &DeskDocument::selectionChanged,
                        &DeskDocument::saveStateChanged, &DeskDocument::currentChanged})
        connect(m_document, signal, this, &MainWindow::refresh);
    connect(m_ledger, &LedgerPanel::entryChosen, m_bench, &BenchView::showEntry);
    connect(m_work, &Work::told, this, &MainWindow::note);
    connect(m_gather, &GatherWork::told, this, &MainWindow::note);
    m_findSettings = new FindSettings(*m_document, *m_work, this);
    connect(m_tray, &Tray::lookFor, m_findSettings, &FindSettings::openAt);
    connect(m_tray, &Tray::guideMenu, this, [this](const QPoint& at) {
        QMenu menu(this);
        for (const char* id :
             {"heed", "hush", "shield", "bounds", "smoothOnly", "carryGuides", "clearGuides"})
            menu.addAction(m_actions->get(id));
        menu.exec(at - QPoint(0, menu.sizeHint().height()));
    });
    connect(m_bench, &BenchView::basePicked, this, [this](PointF at) {
        m_bench->setTool(Tool::Look);
        m_work->pickBase(m_pictures->original(), at);
    });
    connect(m_series, &SeriesPanel::bringIn, this, &MainWindow::bringIn);
    connect(m_series, &SeriesPanel::pickBase, this, [this] {
        setStage(Stage::Find);
        m_bench->setTool(Tool::PickBase);
        note(tr("Click on bare film: the rim between two pictures, or a hole"));
    });
    connect(m_tray, &Tray::findHere, this, [this] { find(false); });
    connect(m_tray, &Tray::findSeries, this, [this] { find(true); });
    connect(m_sheet, &ContactSheet::openFrame, this, [this] { setStage(Stage::Find); });
    connect(m_sheet, &ContactSheet::takeOut, m_actions->get("takeOut"), &QAction::trigger);
    connect(m_sheet, &ContactSheet::menuAsked, this, &MainWindow::frameMenu);
    connect(m_queue, &DeliveryQueue::openFrame, this, [this] { setStage(Stage::Mend); });
    connect(m_series, &SeriesPanel::goFind, this, [this] { setStage(Stage::Find); });
    connect(m_series, &SeriesPanel::locate, this, &MainWindow::askLocation);
    connect(m_series, &SeriesPanel::addFrames, this, [this] { m_actions->get("add")->trigger(); });
    connect(m_carry, &CarryPanel::onlyLooks, this,
            [this](bool on) { m_board->board().setOnlyLooks(on); });
    connect(m_board, &CarryBoard::openCell, this,
            [this](const std::string& frame, series::Id mend) {
                m_document->setCurrent(frame);
                setStage(Stage::Mend);
                m_document->select(mend);
                m_bench->showEntry(mend);
            });
}

void MainWindow::open(const std::vector<std::filesystem::path>& paths) {
    m_document->open(paths);
}

void MainWindow::askFolder() {
    const QString dir =
        QFileDialog::getExistingDirectory(this, tr("Open a folder of pictures or a series"));
    if (!dir.isEmpty()) open({dir.toStdString()});
}

void MainWindow::askLocation() {
    const QString dir =
        QFileDialog::getExistingDirectory(this, tr("Where the missing pictures are now"));
    if (!dir.isEmpty()) m_gather->locate(dir.toStdString());
}

void MainWindow::frameMenu(const QPoint& at) {
    QMenu menu(this);
    for (const char* id : {"stage1", "reference", "takeOut"}) menu.addAction(m_actions->get(id));
    menu.exec(at);
}

void MainWindow::setStage(Stage stage) {
    m_rail->setStage(stage);
    const int page = stage == Stage::Gather    ? 0
                     : stage == Stage::Carry   ? 2
                     : stage == Stage::Deliver ? 3
                                               : 1;
    m_centre->setCurrentIndex(page);
    m_side->setCurrentIndex(page);
    m_column->setVisible(stage != Stage::Gather);
    m_column->setTicks(stage == Stage::Carry || stage == Stage::Deliver);
    m_bench->setTool(stage == Stage::Mend ? Tool::Touch : Tool::Look);
    m_tray->setStage(stage);
    m_ledger->setMending(stage == Stage::Mend);
    m_centre->currentWidget()->setFocus();
}

void MainWindow::find(bool wholeSeries) {
    const auto s = m_document->now();
    const auto f = m_document->current();
    if (!s || !f || m_jobs->busy()) return;
    std::vector<std::string> frames;
    if (wholeSeries)
        for (const auto& each : s->frames) frames.push_back(each->id);
    else
        frames.push_back(f->id);
    if (m_rail->stage() != Stage::Find && m_rail->stage() != Stage::Mend) setStage(Stage::Find);
    m_work->findOn(frames);
}

void MainWindow::bringIn(const QString& device) {
    const QString folder =
        QFileDialog::getExistingDirectory(this, tr("Choose a folder to bring the frames into"));
    if (!folder.isEmpty()) bringInto(device, folder);
}

void MainWindow::bringInto(const QString& device, const QString& folder) {
    const QString name = device == "card"   ? "cloud-watch"
                         : device == "film" ? "roll-7"
                                            : "keepers-album";
    m_jobs->run(
        tr("Bringing in %1").arg(name), this,
        [name, folder, program = QCoreApplication::applicationDirPath() + "/gqsim"](
            std::stop_token stop, const Progress& progress) {
            return runDevice(program, {"demo", folder, "--only", name, "--progress"}, progress,
                             stop);
        },
        [this, made = (folder + "/" + name).toStdString()](const Status& done) {
            if (done)  // once this job has ended
                QTimer::singleShot(0, this, [this, made] { open({made}); });
            else if (done.error().kind != Error::Kind::Cancelled)
                tell(done.error());
        });
}

void MainWindow::applyLook() {
    applyTheme(m_preferences.dark(), m_preferences.surround() / 100.0);
    for (auto* w : findChildren<QWidget*>()) w->update();
}

void MainWindow::askPreferences(bool keys) {
    PreferencesDialog dialog(*m_actions, m_preferences, this);
    connect(&dialog, &PreferencesDialog::lookChanged, this, &MainWindow::applyLook);
    if (keys) dialog.showKeys();
    dialog.exec();
    m_ledger->refresh();
}

void MainWindow::note(const QString& words) {
    m_notice->note(words);
}

void MainWindow::tell(const Error& error) {
    m_notice->tell(error);
}

void MainWindow::refresh() {
    const bool open = m_document->isOpen();
    const auto* history = m_document->history();
    const auto* m = open ? m_document->selectedMend() : nullptr;
    const auto* f = open ? m_document->selectedFinding() : nullptr;
    for (const auto& c : m_actions->all())
        if (c.menu != tr("Help") && c.id != "open" && c.id != "add" && c.id != "quit" &&
            c.id != "preferences" && c.id != "theme")
            c.action->setEnabled(open);
    auto* undo = m_actions->get("undo");
    auto* redo = m_actions->get("redo");
    undo->setEnabled(history && history->canUndo());
    undo->setText(history && history->canUndo() ? tr("Undo %1").arg(text(history->undoName()))
                                                : tr("Undo"));
    redo->setEnabled(history && history->canRedo());
    redo->setText(history && history->canRedo() ? tr("Redo %1").arg(text(history->redoName()))
                                                : tr("Redo"));
    for (const char* id : {"erase", "another", "source", "mute", "grow", "shrink"})
        m_actions->get(id)->setEnabled(m != nullptr);
    for (const char* id : {"mend", "leave"}) m_actions->get(id)->setEnabled(f && !m);
    setWindowTitle(open ? tr("%1 — Gentle Quill").arg(text(m_document->now()->name))
                        : tr("Gentle Quill"));
    m_saveState->setText(open ? tr("%1   %2").arg(text(m_document->now()->name),
                                                  m_document->saved() ? tr("saved") : tr("saving…"))
                              : QString());
}

bool MainWindow::settled() const {
    return m_jobs->idle() && m_pictures->settled() && m_bench->settled() && m_crops->settled() &&
           m_mends->settled() && (!m_document->isOpen() || m_document->saved());
}

void MainWindow::keyPressEvent(QKeyEvent* e) {
    if (!m_actions->isKeyOf("before", *e)) return QMainWindow::keyPressEvent(e);
    if (e->isAutoRepeat()) return;
    m_held = e->key();
    m_bench->holdBefore(true);
}

void MainWindow::keyReleaseEvent(QKeyEvent* e) {
    if (e->key() != m_held || e->isAutoRepeat()) return QMainWindow::keyReleaseEvent(e);
    m_held = 0;
    m_bench->holdBefore(false);
}

void MainWindow::closeEvent(QCloseEvent* e) {
    m_jobs->stopShown();
    QMainWindow::closeEvent(e);
}

}  // namespace gq::desk
