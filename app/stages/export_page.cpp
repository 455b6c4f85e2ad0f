#include "app/stages/export_page.h"

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
#include <QStandardPaths>
#include <QUrl>

#include "app/theme/theme.h"
#include "core/duck/gain_curve.h"
#include "core/render/export_files.h"
#include "core/session/midi_pattern.h"
#include "core/theory/text.h"

namespace heft::app {
namespace {

const QStringList kFormats = {"WAV, 16 bit, dithered", "WAV, 24 bit", "WAV, 32 bit float", "FLAC, 24 bit"};

int bytesPerSample(SampleFormat f) {
  return f == SampleFormat::Wav16 ? 2 : f == SampleFormat::WavFloat ? 4 : 3;
}

// The files to come, one row each, with the size they will have (FLAC: at most).
QString plan(const Document& doc) {
  const Session& s = doc.session();
  const Study* study = doc.study();
  const Stems* stems = doc.stems();
  if (!stems || !study || study->empty) return "<p>Nothing sounds yet: drop a kick and a bass in Sounds.</p>";
  const QString name = QString::fromStdString(s.track.name).toHtmlEscaped();
  const double bytes = bytesPerSample(s.exports.format);
  QString out = "<table cellspacing='0' cellpadding='3'>";
  const QString extension = extensionOf(s.exports.format);
  auto row = [&](const QString& file, const QString& what, double size) {
    out += QString(
               "<tr><td width='250'>%1 - %2</td><td width='300' style='color:%3'>%4</td><td "
               "align='right'>%5</td></tr>")
               .arg(name, file, theme().muted.name(), what, QString::fromStdString(sizeText(size)));
  };
  auto note = [&](const std::shared_ptr<const SoundFacts>& facts) {
    return facts && facts->landing.hz
               ? " " + QString::fromStdString(noteName(
                           static_cast<int>(std::lround(midiFromHz(*facts->landing.hz, s.track.notes.a4Hz))),
                           s.track.notes))
               : QString();
  };
  const double loop = static_cast<double>(stems->frames) * bytes;
  if (s.exports.kickOneShot && study->readyKick)
    row("kick" + note(study->kick) + "." + extension, "the kick, tuned and trimmed",
        static_cast<double>(study->readyKick->sound.frames() * study->readyKick->sound.channelCount()) * bytes);
  if (s.exports.bassOneShot && study->bass)
    row("bass" + note(study->bass) + "." + extension, "the bass on its root",
        study->bass->durationSeconds * s.track.sampleRate * bytes *
            static_cast<double>(std::min<size_t>(2, study->bass->channels)));
  if (s.exports.stems) {
    row("kick stem." + extension, "kick over the loop", loop * static_cast<double>(stems->kick.channels()));
    row("bass stem." + extension, "bass over the loop, moved and ducked",
        loop * static_cast<double>(stems->bass.channels()));
    if (study->hasBacking)
      row("backing stem." + extension, "backing over the loop",
          loop * static_cast<double>(stems->backing.channels()));
    row("sum." + extension, "the sum over the loop", loop * static_cast<double>(stems->sum.channels()));
  }
  if (s.exports.gainCurve && s.duck.on) {
    const auto gain = stems->gain.wrapped(0, 0, stems->frames);
    row("gain.csv", "ducking gain, a row each millisecond",
        static_cast<double>(gainCsv(gain, stems->sampleRate).size()));
    row("gain.mid", "ducking gain as controller 11",
        static_cast<double>(gainMidi(gain, stems->sampleRate, s.track.tempoBpm).size()));
  }
  if (s.exports.patterns && !(s.kick.hits.empty() && s.bass.notes.empty()))
    row("patterns.mid", "kick hits and bass line", static_cast<double>(midiBytes(midiOf(s)).size()));
  return out + "</table>";
}

// Written files, each of which can be dragged out as a file.
class WrittenFiles : public QListWidget {
 public:
  WrittenFiles() {
    setObjectName("Written files");
    setAccessibleName("Written files");
    setToolTip("Drag a file from here to where it is wanted");
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
  label->setFont(bodyFont());
  return label;
}

}  // namespace

ExportPage::ExportPage(Document& document, Selection& selection)
    : StagePage(Stage::Export, document, selection) {
  auto* body = new QWidget;
  auto* grid = new QGridLayout(body);
  grid->setContentsMargins(0, 12, 0, 8);
  grid->setHorizontalSpacing(24);
  grid->setVerticalSpacing(8);
  list_ = new QWidget;
  auto* boxes = new QVBoxLayout(list_);
  boxes->setContentsMargins(0, 0, 0, 0);
  boxes->setSpacing(10);
  auto* what = new QLabel("What to write");
  what->setFont(bodyFont(true));
  boxes->addWidget(what);
  addChoice("Kick one-shot", "The kick, tuned and trimmed, with its root note", &ExportList::kickOneShot);
  addChoice("Bass one-shot", "The bass on its root note", &ExportList::bassOneShot);
  addChoice("Loop stems", "Kick, bass, backing and sum over exactly one loop", &ExportList::stems);
  addChoice("Gain curve", "The ducking's gain as CSV and as MIDI controller data", &ExportList::gainCurve);
  addChoice("Patterns", "Kick hits and bass line as a MIDI file, with dives and the pitch wheel",
            &ExportList::patterns);
  boxes->addStretch(1);
  grid->addWidget(list_, 0, 0);
  preview_ = new QLabel;
  preview_->setObjectName("Export list");
  preview_->setTextFormat(Qt::RichText);
  preview_->setAlignment(Qt::AlignTop | Qt::AlignLeft);
  grid->addWidget(preview_, 0, 1, Qt::AlignTop);
  log_ = new QPlainTextEdit;
  log_->setObjectName("Export log");
  log_->setAccessibleName("Export log");
  log_->setReadOnly(true);
  log_->setPlaceholderText("Nothing yet: press Write files.");
  written_ = new WrittenFiles;
  writtenTitle_ = sideTitle("Written", "drag them out");
  writtenTitle_->hide();
  grid->addWidget(writtenTitle_, 1, 0, Qt::AlignTop);
  grid->addWidget(written_, 1, 1);
  grid->addWidget(sideTitle("Log", "what was written"), 2, 0, Qt::AlignTop);
  grid->addWidget(log_, 2, 1);
  grid->setColumnStretch(1, 1);
  grid->setRowStretch(2, 1);
  setPicture(body);
  folder_ = QStandardPaths::writableLocation(QStandardPaths::MusicLocation);
  addField({.caption = "Folder",
            .name = "Export folder",
            .tip = "Where the files go",
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
  Document& doc = document;
  addField({.caption = "Format",
            .name = "Export format",
            .tip = "File format of every sound",
            .text = [&doc] { return kFormats[static_cast<int>(doc.session().exports.format)]; },
            .choices = [] { return kFormats; },
            .choose =
                [&doc](int i) {
                  doc.edit("choose export format",
                           [i](Session& s) { s.exports.format = static_cast<SampleFormat>(i); });
                }});
  button_ = new QPushButton("Write files");
  button_->setObjectName("Write files");
  button_->setAccessibleName("Write files");
  button_->setToolTip("Writes everything in the list (Ctrl+E)");
  connect(button_, &QPushButton::clicked, this, &ExportPage::write);
  addToFields(button_);
  refresh();
}

void ExportPage::addChoice(const QString& name, const QString& tip, bool ExportList::*member) {
  auto* box = new QCheckBox(name);
  box->setObjectName(name);
  box->setAccessibleName(name);
  box->setToolTip(tip);
  list_->layout()->addWidget(box);
  connect(box, &QCheckBox::clicked, this, [this, member, name](bool on) {
    document().edit((on ? "export " : "leave out ") + name.toLower(),
                    [&](Session& s) { s.exports.*member = on; });
  });
  choices_.push_back({box, member});
}

void ExportPage::setFolder(const QString& folder) {
  folder_ = folder;
  refresh();
}

void ExportPage::chooseFolder() {
  const QString folder = QFileDialog::getExistingDirectory(this, "Export to", folder_);
  if (!folder.isEmpty()) setFolder(folder);
}

void ExportPage::write() {
  const Study* study = document().study();
  if (!study || study->empty) return;
  button_->setEnabled(false);
  // Rendered anew, mostly from the cache: an edit may be on its way to the stems that are shown.
  auto work = [s = document().session(), assets = document().assets(), cache = document().cache(),
               folder = folder_.toStdString()](const std::stop_token&) -> Result<Written> {
    const auto stems = heft::render(s, assets, *cache);
    if (!stems) return Fail(stems.error());
    auto files = exportFiles(s, assets, *stems, *cache);
    if (!files) return Fail(files.error());
    if (auto wrote = writeExport(folder, *files); !wrote) return Fail(wrote.error());
    Written out{exportLog(*files, folder), {}};
    for (const ExportFile& f : *files) out.names << QString::fromStdString(f.name);
    return out;
  };
  document().jobs().start("Writing files", Jobs::Kind::RunsToItsEnd, work,
                          [this, folder = folder_](Result<Written> written) { tell(written, folder); });
}

void ExportPage::tell(const Result<Written>& written, const QString& folder) {
  button_->setEnabled(true);
  const QString when = QDateTime::currentDateTime().toString("HH:mm:ss  ");
  if (!written) {
    log_->appendPlainText(when + "Nothing was written. " + QString::fromStdString(written.error().sentence()) +
                          "\n");
    return;
  }
  log_->appendPlainText(when + QString::fromStdString(written->log));
  written_->clear();
  for (const QString& name : written->names) {
    auto* item = new QListWidgetItem(name, written_);
    item->setData(Qt::UserRole, QDir(folder).absoluteFilePath(name));
  }
  written_->show();
  writtenTitle_->show();
}

void ExportPage::refresh() {
  StagePage::refresh();
  for (const Choice& c : choices_) c.box->setChecked(document().session().exports.*c.member);
  if (isVisible()) preview_->setText(plan(document()));
}

void ExportPage::showEvent(QShowEvent* event) {
  StagePage::showEvent(event);
  refresh();
}

QString ExportPage::subtitle() const {
  return "finished one-shots, stems and gain curves, the same samples that play";
}

}  // namespace heft::app
