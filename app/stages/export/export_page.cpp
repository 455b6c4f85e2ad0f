#include "app/stages/export/export_page.h"

#include <QCheckBox>
#include <QDateTime>
#include <QDir>
#include <QFileDialog>
#include <QGridLayout>
#include <QLabel>
#include <QListWidget>
#include <QMimeData>
#include <QPlainTextEdit>
#include <QPushButton>
#include <QScrollArea>
#include <QStandardPaths>
#include <QTextCursor>
#include <QUrl>

#include "app/document/aside.h"
#include "app/fields/value_fields.h"
#include "app/theme/theme.h"
#include "app/widgets/plain_label.h"
#include "core/export/export_files.h"
#include "core/session/edits/values.h"

namespace heft::app {
namespace {

const QStringList kFormats = {"WAV, 16 bit, dithered", "WAV, 24 bit", "WAV, 32 bit float", "FLAC, 24 bit"};

// The files to write, one row each with its size, and listed items that give no file.
QString planText(const Session& s, const std::vector<ExportFile>& files) {
  QString out = "<table width='100%' cellspacing='0' cellpadding='3'>";
  auto row = [&](const QString& file, const QString& what, const QString& size) {
    out +=
        QString(
            "<tr><td width='40%'>%1</td><td width='46%' style='color:%2'>%3</td><td align='right'>%4</td></tr>")
            .arg(file.toHtmlEscaped(), theme().muted.name(), what.toHtmlEscaped(), size);
  };
  for (const ExportFile& f : files)
    row(QString::fromStdString(f.name), QString::fromStdString(f.what),
        QString(f.name.ends_with(".flac") ? "up to " : "") + QString::fromStdString(sizeText(f.size())));
  const bool ducks = std::any_of(s.ducks.begin(), s.ducks.end(), [&](const Duck& d) { return s.acts(d); });
  const bool plays = std::any_of(s.parts.begin(), s.parts.end(), [](const Part& p) { return p.hasEvents(); });
  if (s.exports.gainCurve && !ducks) row("no gain curve", "nothing ducks: switch Ducking on in Duck", {});
  if (s.exports.patterns && !plays) row("no patterns", "there are no hits and no notes", {});
  if (s.exports.kickOneShot && s.kick().layers.empty()) row("no kick", "there is none", {});
  if (s.exports.bassOneShot && s.bass().layers.empty()) row("no bass", "there is none", {});
  return out + "</table>";
}

// Written files; each can be dragged out.
class WrittenFiles : public QListWidget {
 public:
  WrittenFiles() {
    setObjectName("Written files");
    setAccessibleName("Written files");
    setToolTip("Drag files from here into your DAW or a folder");
    setDragEnabled(true);
    setDragDropMode(QAbstractItemView::DragOnly);
    setSelectionMode(QAbstractItemView::ExtendedSelection);
    setFixedHeight(140);
    hide();
  }

 protected:
  QMimeData* mimeData(const QList<QListWidgetItem*>& items) const override {
    QList<QUrl> urls;
    for (const QListWidgetItem* item : items) urls << QUrl::fromLocalFile(item->data(Qt::UserRole).toString());
    auto* carried = new QMimeData;
    carried->setUrls(urls);
    return carried;
  }
};

QLabel* sideTitle(const QString& title, const QString& words) {
  auto* label = new QLabel(
      QString("<b>%1</b><br><span style='color:%2'>%3</span>").arg(title, theme().muted.name(), words));
  label->setTextFormat(Qt::RichText);  // all of it is ours
  label->setFont(bodyFont());
  return label;
}

}  // namespace

ExportPage::ExportPage(Document& document, Selection& selection)
    : StagePage(Stage::Export, document, selection) {
  auto* body = new QWidget;
  auto* grid = new QGridLayout(body);
  grid->setContentsMargins(0, 6, 0, 4);
  grid->setHorizontalSpacing(24);
  grid->setVerticalSpacing(8);
  buildList();
  grid->addWidget(list_, 0, 0);
  preview_ = new QLabel;
  preview_->setObjectName("Export list");
  preview_->setTextFormat(Qt::RichText);
  preview_->setAlignment(Qt::AlignTop | Qt::AlignLeft);
  // Never wider than the page: a long list scrolls by itself.
  preview_->setWordWrap(true);
  preview_->setSizePolicy(QSizePolicy::Ignored, QSizePolicy::Preferred);
  auto* planned = new QScrollArea;
  planned->setFrameShape(QFrame::NoFrame);
  planned->setWidgetResizable(true);
  planned->setHorizontalScrollBarPolicy(Qt::ScrollBarAlwaysOff);
  planned->setFocusPolicy(Qt::NoFocus);
  planned->setWidget(preview_);
  grid->addWidget(planned, 0, 1);
  buildQuestion();
  grid->addWidget(question_, 3, 1);
  log_ = new QPlainTextEdit;
  log_->setObjectName("Export log");
  log_->setAccessibleName("Export log");
  log_->setReadOnly(true);
  // Takes the remaining height.
  log_->setSizePolicy(QSizePolicy::Expanding, QSizePolicy::Ignored);
  log_->setMinimumHeight(48);
  log_->setPlaceholderText("Nothing yet: press Write files.");
  written_ = new WrittenFiles;
  writtenTitle_ = sideTitle("Written", "drag them out");
  writtenTitle_->hide();
  grid->addWidget(writtenTitle_, 1, 0, Qt::AlignTop);
  grid->addWidget(written_, 1, 1);
  grid->addWidget(sideTitle("Log", "files written"), 2, 0, Qt::AlignTop);
  grid->addWidget(log_, 2, 1);
  grid->setColumnStretch(1, 1);
  grid->setRowStretch(2, 1);
  setPicture(body);
  folder_ = QStandardPaths::writableLocation(QStandardPaths::MusicLocation);
  addFields();
  connect(&document, &Document::replaced, this, &ExportPage::forget);
  connect(&document.jobs(), &Jobs::faulted, this, [this] { button_->setEnabled(true); });
  refresh();
}

// The written files and the open question belong to the former session.
void ExportPage::forget() {
  question_->hide();
  log_->clear();
  written_->clear(), written_->hide(), writtenTitle_->hide();
  planned_.reset();
  button_->setEnabled(true);
}

void ExportPage::buildList() {
  list_ = new QWidget;
  auto* boxes = new QVBoxLayout(list_);
  boxes->setContentsMargins(0, 0, 0, 0);
  boxes->setSpacing(4);
  auto* what = plainLabel("What to write");
  what->setFont(bodyFont(true));
  boxes->addWidget(what);
  addChoice("Kick one-shot", "The kick, tuned and trimmed, with its root note", "export.kick");
  addChoice("Bass one-shot", "The bass on its root note", "export.bass");
  addChoice("Other one-shots", "One-shots of the parts beside kick and bass", "export.parts");
  addChoice(
      "Stems",
      "Parts, backing and sum, one loop long, or the song with its tails; only the sum has the sum processors",
      "export.stems");
  addChoice("Gain curves", "The gain of each ducking as CSV and as MIDI controller data", "export.gain_curve");
  addChoice("Gain signals", "The gain of each ducking as a WAV of one channel, 1 is open, 0 is silence",
            "export.gain_signal");
  addChoice("Triggers", "Trigger times of each ducking, as CSV and MIDI", "export.triggers");
  addChoice("Automation", "Each automated value over the track, as CSV and MIDI", "export.automation");
  addChoice("Patterns", "Kick hits and bass line as a MIDI file, with dives and the pitch wheel",
            "export.patterns");
  addChoice("All versions", "One-shots of every version of a part, named by it", "export.versions");
  addChoice("Every bass note", "A one-shot for each note that a bass plays", "export.every_note");
  boxes->addStretch(1);
}

void ExportPage::addFields() {
  addField({.caption = "Folder",
            .name = "Export folder",
            .tip = "Export folder",
            .text = [this] { return folder_; },
            .commit = [this](const QString& text) -> std::optional<QString> {
              if (text.trimmed().isEmpty()) return "Name a folder";
              setFolder(text.trimmed());
              return std::nullopt;
            }});
  auto* browse = new QPushButton("Choose");
  browse->setToolTip("Choose the folder");
  connect(browse, &QPushButton::clicked, this, &ExportPage::chooseFolder);
  addToFields(browse);
  const OwnerNow session = [] { return Owner(); };
  std::vector<WordFor> formats;
  for (int i = 0; i < kFormats.size(); ++i)
    formats.push_back({kFormats[i], std::string(nameOf(static_cast<SampleFormat>(i)))});
  addField(fieldOf(document(), session,
                   FieldWords{"export.format", "Format", "File format of every sound"}
                       .called("Export format")
                       .oneOf(formats)));
  addField(fieldOf(document(), session,
                   FieldWords{"export.one_shot_peak_db", "One-shot peak",
                              "True peak of every one-shot. Delete: its own level"}
                       .none("own level")
                       .from(-1.0)));
  addField(
      fieldOf(document(), session,
              FieldWords{"export.gain_controller", "Controller", "Controller number of MIDI gain curves"}));
  addField(fieldOf(document(), session,
                   FieldWords{"export.gain_channel", "Channel", "MIDI channel of gain curves"}));
  addField(fieldOf(document(), session,
                   FieldWords{"export.gain_14_bits", "Resolution",
                              "7-bit, or 14-bit on two controllers (0 to 31), within 0.2 dB even at deep gain"}
                       .called("Gain resolution")
                       .oneOf({{"7 bits", false}, {"14 bits", true}}),
                   [this](const Value& fine, const std::string&) {
                     const bool on = std::get<bool>(fine);
                     const int now = document().session().exports.gainController;
                     return putValues("set gain resolution", {},
                                      {{"export.gain_14_bits", on},
                                       {"export.gain_controller", on && now > 31 ? kGainController : now}});
                   }));
  button_ = new QPushButton("Write files");
  button_->setObjectName("Write files");
  button_->setAccessibleName("Write files");
  button_->setToolTip("Writes everything in the list (Ctrl+E)");
  connect(button_, &QPushButton::clicked, this, &ExportPage::write);
  addToHead(button_);
}

void ExportPage::addChoice(const QString& name, const QString& tip, const std::string& key) {
  auto* box = new QCheckBox(name);
  box->setObjectName(name);
  box->setAccessibleName(name);
  box->setToolTip(tip);
  list_->layout()->addWidget(box);
  connect(box, &QCheckBox::clicked, this, [this, key, name](bool on) {
    document().edit(putValue((on ? "export " : "leave out ") + name.toLower().toStdString(), {}, key, on));
  });
  choices_.push_back({box, key});
}

void ExportPage::setFolder(const QString& folder) {
  folder_ = folder;
  refresh();
}

void ExportPage::chooseFolder() {
  const QString folder = QFileDialog::getExistingDirectory(this, "Export to", folder_);
  if (!folder.isEmpty()) setFolder(folder);
}

// Asks before replacing files, in the page and not in a dialog.
void ExportPage::buildQuestion() {
  question_ = new QWidget;
  question_->setObjectName("Export question");
  auto* row = new QHBoxLayout(question_);
  row->setContentsMargins(0, 4, 0, 4);
  questionWords_ = plainLabel();
  questionWords_->setObjectName("Export question words");
  row->addWidget(questionWords_, 1);
  auto add = [&](const QString& words, const QString& tip, auto then) {
    auto* button = new QPushButton(words);
    button->setObjectName(words);
    button->setToolTip(tip);
    connect(button, &QPushButton::clicked, this, [this, then] {
      question_->hide();
      then();
    });
    row->addWidget(button);
  };
  add("Replace", "Replaces the existing files", [this] { writeNow(Existing::WriteOver); });
  add("Keep both", "New files get a number behind their name", [this] { writeNow(Existing::KeepBoth); });
  add("Cancel", "Cancels; writes nothing", [] {});
  question_->hide();
}

void ExportPage::write() {
  const Study* study = document().study();
  if (!study || study->empty) return;
  writeNow(Existing::Ask);
}

void ExportPage::writeNow(Existing existing) {
  button_->setEnabled(false);
  question_->hide();
  // Rendered anew, mostly from the cache: an edit may not have reached the shown stems yet.
  auto work = [s = document().session(), assets = document().assets(), cache = document().cache(),
               folder = folder_.toStdString(), existing](const std::stop_token&) -> Result<Written> {
    const auto stems = heft::render(s, assets, *cache);
    if (!stems) return Fail(stems.error());
    auto files = exportFiles(s, assets, *stems, *cache);
    if (!files) return Fail(files.error());
    Written out;
    out.existing = static_cast<int>(existingFiles(folder, *files).size());
    if (existing == Existing::Ask && out.existing > 0) return out;
    if (existing == Existing::KeepBoth) nameBeside(folder, *files);
    if (auto wrote = writeExport(folder, *files); !wrote) return Fail(wrote.error());
    out.log = exportLog(*files, folder);
    for (const ExportFile& f : *files) out.names << QString::fromStdString(f.name);
    return out;
  };
  document().jobs().start(
      "Writing files", Jobs::Kind::RunsToItsEnd, work,
      [this, folder = folder_, generation = document().generation()](Result<Written> written) {
        if (generation == document().generation()) return tell(written, folder);
        if (written && written->names.isEmpty()) return;  // it had only asked
        // Of a session that is not open any more: its own page is gone.
        document().tell(written ? "Files of the last session were written to " + folder
                                : QString::fromStdString(written.error().sentence()));
      });
}

// Shows the list that will be written, made aside.
void ExportPage::askForPlan() {
  const Document& doc = document();
  if (!isVisible() || !doc.stems() || !doc.study()) return;
  if (doc.study()->empty)
    return preview_->setText("<p>Nothing sounds yet: drop a kick and a bass in Sounds.</p>");
  if (planned_ && *planned_ == doc.session()) return;
  planned_ = doc.session();
  auto work = [s = doc.session(), assets = doc.assets(),
               cache = doc.cache()]() -> Result<std::vector<ExportFile>> {
    const auto stems = heft::render(s, assets, *cache);
    if (!stems) return Fail(stems.error());
    return exportFiles(s, assets, *stems, *cache);
  };
  runAside(
      this, work,
      [this, s = doc.session()](const Result<std::vector<ExportFile>>& files) {
        if (planned_ && *planned_ == s)
          preview_->setText(files ? planText(s, *files)
                                  : "<p>" + QString::fromStdString(files.error().sentence()).toHtmlEscaped() +
                                        "</p>");
      },
      document().failing());
}

void ExportPage::tell(const Result<Written>& written, const QString& folder) {
  button_->setEnabled(true);
  const QString when = QDateTime::currentDateTime().toString("HH:mm:ss  ");
  if (!written) {
    log(when + "Nothing was written. " + QString::fromStdString(written.error().sentence()) + "\n");
    return;
  }
  if (written->names.isEmpty() && written->existing > 0) {
    questionWords_->setText(QString(written->existing == 1 ? "One of the files is there already."
                                                           : "%1 of the files are there already.")
                                .arg(written->existing));
    question_->show();
    return;
  }
  log(when + QString::fromStdString(written->log));
  written_->clear();
  for (const QString& name : written->names) {
    auto* item = new QListWidgetItem(name, written_);
    item->setData(Qt::UserRole, QDir(folder).absoluteFilePath(name));
  }
  written_->show();
  writtenTitle_->show();
}

// Scrolls to the newest.
void ExportPage::log(const QString& words) {
  log_->appendPlainText(words);
  log_->moveCursor(QTextCursor::End);
  log_->ensureCursorVisible();
}

void ExportPage::refresh() {
  StagePage::refresh();
  for (const Choice& c : choices_)
    c.box->setChecked(isOn(document().session(), Owner(), c.key).value_or(false));
  askForPlan();
}

void ExportPage::showEvent(QShowEvent* event) {
  StagePage::showEvent(event);
  refresh();
}

QString ExportPage::subtitle() const {
  return "finished one-shots, stems and gain curves, the same samples that play";
}

}  // namespace heft::app
