#include "app/stages/compare/speakers_picture.h"

#include <algorithm>

#include "app/theme/theme.h"

namespace heft::app {
namespace {

constexpr double kPlaceNameWidth = 96.0, kHead = 40.0, kMostPhon = 80.0;

}  // namespace

SpeakersPicture::SpeakersPicture(Document& document, Selection& selection, CompareFigures& figures,
                                 ReferenceEar& ear)
    : ComparePicture(document, selection, figures, ear, "Speakers") {
  QString sources =
      "Loudness of each bass note and of the kick, in phon, from the partials that each place leaves.";
  for (const heft::Place place : kAllPlaces)
    sources += QString("\n%1: %2.").arg(placeWord(place), placeSource(place));
  explain("Loudness in phon, from the partials that each place leaves. 20 and more: heard", sources);
  connect(&figures, &CompareFigures::changed, this, &SpeakersPicture::measure);
}

void SpeakersPicture::setQuietDb(double db) {
  quietDb_ = std::clamp(db, kLeastListeningDb, kMostListeningDb);
  measure();
}

void SpeakersPicture::showEvent(QShowEvent* event) {
  Picture::showEvent(event);
  measure();
}

void SpeakersPicture::measure() {
  if (!isVisible()) return;
  auto makeWork = [this] {
    return [session = document().session(), assets = document().assets(), cache = document().cache(),
            quiet = quietDb_] { return speakerRows(session, assets, quiet, *cache); };
  };
  measuring_.ask(
      this, makeWork,
      [this](std::vector<SpeakerRow> rows) {
        rows_ = std::move(rows);
        update();
      },
      document().failing());
}

// A bar as long as its loudness, and a word for it.
void SpeakersPicture::drawCell(QPainter& p, const QRectF& box, double phon) const {
  const Theme& t = theme();
  const Audible audible = audibleAt(phon);
  const QColor ink = audible == Audible::Heard ? t.ink : audible == Audible::Faint ? t.watch : t.off;
  const double wide = (box.width() - 12.0) * std::clamp(phon / kMostPhon, 0.0, 1.0);
  p.fillRect(QRectF(box.left(), box.bottom() - 6, box.width() - 12.0, 3), withAlpha(t.rule, 0.6));
  p.fillRect(QRectF(box.left(), box.bottom() - 6, wide, 3), ink);
  p.setFont(axisFont(audible != Audible::Heard));
  p.setPen(ink);
  p.drawText(box.adjusted(0, 0, -6, -8), Qt::AlignLeft | Qt::AlignBottom,
             audible == Audible::Gone ? QString("gone")
                                      : QString("%1 %2").arg(audibleWord(audible)).arg(std::lround(phon)));
}

void SpeakersPicture::paintEvent(QPaintEvent*) {
  QPainter p(this);
  const Theme& t = theme();
  if (rows_.empty())
    return drawEmpty(p, measuring_.isRunning()
                            ? "Listening..."
                            : "Kick and bass appear here once they have sounds and a pattern.");
  QStringList columns{"here"};
  for (const heft::Place place : kAllPlaces) columns << placeWord(place);
  columns << QString("quietly, %1 dB").arg(quietDb_);
  const double column = (width() - kPlaceNameWidth - 32.0) / static_cast<double>(columns.size());
  const double row = std::clamp((height() - kHead - 8.0) / static_cast<double>(rows_.size()), 18.0, 48.0);
  p.setFont(axisFont(true));
  p.setPen(t.ink);
  for (qsizetype i = 0; i < columns.size(); ++i)
    p.drawText(QRectF(16 + kPlaceNameWidth + static_cast<double>(i) * column, 8, column - 6, 18),
               Qt::AlignLeft | Qt::AlignVCenter, columns[i]);
  p.setFont(axisFont());
  p.setPen(t.muted);
  p.drawText(QRectF(16, 8, kPlaceNameWidth, 18), Qt::AlignLeft | Qt::AlignVCenter, "phon");
  for (size_t r = 0; r < rows_.size(); ++r) {
    const SpeakerRow& of = rows_[r];
    const double y = kHead - 8.0 + static_cast<double>(r) * row;
    if (y + row > height()) break;
    p.setPen(t.rule);
    p.drawLine(QPointF(16, y - 0.5), QPointF(width() - 16.0, y - 0.5));
    p.setFont(bodyFont(true));
    p.setPen(of.midi ? t.bass : t.kick);
    const QString name = of.midi ? QString::fromStdString(noteName(*of.midi, track().notes)) : QString("Kick");
    p.drawText(QRectF(16, y, kPlaceNameWidth, row), Qt::AlignLeft | Qt::AlignVCenter,
               QString("%1  %2x").arg(name).arg(of.events));
    std::vector<double> phon{of.fullPhon};
    phon.insert(phon.end(), of.phon.begin(), of.phon.end());
    phon.push_back(of.quietPhon);
    for (size_t c = 0; c < phon.size(); ++c)
      drawCell(p, QRectF(16 + kPlaceNameWidth + static_cast<double>(c) * column, y, column, row), phon[c]);
  }
}

}  // namespace heft::app
