#include "app/stages/compare_page.h"

#include <QDragEnterEvent>
#include <QMenu>
#include <QMimeData>
#include <QPushButton>
#include <algorithm>
#include <cmath>
#include <numeric>

#include "app/files/file_choice.h"
#include "app/theme/theme.h"
#include "core/ledger/compare_curves.h"
#include "core/ledger/ledger.h"
#include "core/session/edits/track.h"
#include "core/theory/text.h"

namespace heft::app {
namespace {

constexpr double kLeastRange = 9.0, kMostRange = 24.0;

}  // namespace

FloorPicture::FloorPicture(Document& document, Selection& selection)
    : Picture(document, selection, "The floor") {
  setToolTip("Sum against references, 20 to 500 Hz, level matched. Flat line: reference median");
}

FloorPicture::Areas FloorPicture::areas(const Study& s, const std::vector<CompareCurve>& curves) const {
  Areas out;
  const double left = 64, right = width() - 16.0;
  // Missing references are named above the plot: no words over the curves.
  out.plot = QRectF(QPointF(left, missing(s).isEmpty() ? 24 : 46), QPointF(right, height() - 92.0));
  out.hz = {20.0, 500.0, left, right, true};
  out.level = levelAxis(s, curves);
  out.level.pixelFrom = out.plot.bottom(), out.level.pixelTo = out.plot.top();
  out.bandY = out.plot.bottom() + 42;
  return out;
}

// Single parts fade outside their own bands: only levels above the floor count.
Axis FloorPicture::levelAxis(const Study& s, const std::vector<CompareCurve>& curves) const {
  double most = -300.0, least = 300.0;
  for (const CompareCurve& c : curves) {
    const auto [low, high] = std::minmax_element(c.db.begin(), c.db.end());
    most = std::max(most, *high);
    if (c.of == CompareCurve::Of::Sum || c.of == CompareCurve::Of::Reference) least = std::min(least, *low);
  }
  if (!floorShown(s)) return {-48.0, 0.0, 0.0, 1.0};
  const double range = std::clamp(std::ceil(std::max(most, -least) / 3.0) * 3.0, kLeastRange, kMostRange);
  return {-range, range, 0.0, 1.0};
}

void FloorPicture::drawGrid(QPainter& p, const Areas& a) const {
  const Theme& t = theme();
  const Key& key = track().key;
  p.setFont(axisFont());
  for (int midi = 15; midi <= 72; ++midi) {
    const double hz = hzFromMidi(midi, track().notes.a4Hz);
    if (!key.contains(midi) || !a.hz.holds(hz)) continue;
    const bool tonic = key.isTonic(midi), fifth = key.isFifth(midi);
    const double x = std::round(a.hz.pixel(hz)) + 0.5;
    p.setPen(QPen(tonic ? withAlpha(t.muted, 0.6) : t.rule, 1.0));
    p.drawLine(QPointF(x, a.plot.top()), QPointF(x, a.plot.bottom()));
    if (!tonic && !fifth) continue;
    p.setFont(axisFont(tonic));
    drawLabel(p, QPointF(x, 4), Qt::AlignHCenter | Qt::AlignTop,
              QString::fromStdString(noteName(midi, track().notes)), tonic ? t.ink : t.muted,
              QColor(0, 0, 0, 0));
  }
  p.setFont(axisFont());
  const double step = a.level.to > 12.0 ? 6.0 : a.level.to > 1.0 ? 3.0 : 12.0;
  for (double db = std::ceil(a.level.from / step) * step; db <= a.level.to + 0.01; db += step) {
    const double y = std::round(a.level.pixel(db)) + 0.5;
    p.setPen(QPen(t.rule, 1.0, Qt::DotLine));
    p.drawLine(QPointF(a.plot.left(), y), QPointF(a.plot.right(), y));
    drawLabel(p, QPointF(a.plot.left() - 8, y), Qt::AlignRight | Qt::AlignVCenter,
              (db > 0 && a.level.to > 1 ? "+" : "") + QString::number(db) + (db == 0 ? " dB" : ""), t.muted,
              QColor(0, 0, 0, 0));
  }
  drawTicksBelow(p, a.hz, a.plot.bottom(), {20, 40, 60, 90, 120, 180, 250, 500},
                 [](double v) { return QString::number(v) + " Hz"; });
}

void FloorPicture::drawLeaving(QPainter& p, const Areas& a, const CompareCurve& curve) const {
  const auto& hz = profileHz();
  auto side = [&](double db) { return db > a.level.to ? 1 : db < a.level.from ? -1 : 0; };
  for (size_t i = 0; i < hz.size();) {
    size_t end = i + 1;
    while (end < hz.size() && side(curve.db[end]) == side(curve.db[i])) ++end;
    if (const int out = side(curve.db[i])) {
      const double y = out > 0 ? a.plot.top() + 1.0 : a.plot.bottom() - 1.0;
      p.drawLine(QPointF(a.hz.pixel(hz[i]), y), QPointF(a.hz.pixel(hz[end - 1]), y));
    }
    i = end;
  }
}

void FloorPicture::drawCurves(QPainter& p, const Areas& a, const std::vector<CompareCurve>& curves,
                              bool floor) const {
  const Theme& t = theme();
  const auto& hz = profileHz();
  auto line = [&](const CompareCurve& curve) {
    QPolygonF out;
    for (size_t i = 0; i < hz.size(); ++i)
      out << QPointF(a.hz.pixel(hz[i]),
                     a.level.pixel(std::clamp(curve.db[i], a.level.from - 30, a.level.to + 30)));
    return out;
  };
  auto penOf = [&](CompareCurve::Of of) {
    return of == CompareCurve::Of::Reference ? QPen(t.reference, 1.0)
           : of == CompareCurve::Of::Sum     ? QPen(t.ink, 2.0)
           : of == CompareCurve::Of::Part    ? dataPen(t.muted)
                                             : dataPen(of == CompareCurve::Of::Kick ? t.kick : t.bass);
  };
  p.save();
  p.setRenderHint(QPainter::Antialiasing);
  p.setClipRect(a.plot.adjusted(0, 0, 1, 1));
  for (const CompareCurve& c : curves) {
    const QPolygonF points = line(c);
    if (floor && c.of == CompareCurve::Of::Sum) {
      QPolygonF area = points;
      area.prepend(QPointF(points.first().x(), a.level.pixel(0)));
      area << QPointF(points.last().x(), a.level.pixel(0));
      p.setPen(Qt::NoPen);
      p.setBrush(withAlpha(t.ink, 0.12));
      p.drawPolygon(area);
      p.setBrush(Qt::NoBrush);
    }
    QPen pen = penOf(c.of);
    p.setPen(pen);
    drawLineThrough(p, points);
    pen.setStyle(Qt::DotLine);
    pen.setWidthF(2.0);
    p.setPen(pen);
    drawLeaving(p, a, c);
  }
  p.restore();
  if (floor) {
    const double y = std::round(a.level.pixel(0)) + 0.5;
    p.setPen(QPen(t.muted, 1.5));
    p.drawLine(QPointF(a.plot.left(), y), QPointF(a.plot.right(), y));
  }
}

void FloorPicture::drawBands(QPainter& p, const Areas& a, const Study& s) const {
  const Theme& t = theme();
  for (size_t b = 0; b < kBands.size(); ++b) {
    const double x1 = a.hz.pixel(kBands[b].lowHz) + 2, x2 = a.hz.pixel(kBands[b].highHz) - 2;
    if (b == marked_)
      p.fillRect(QRectF(QPointF(x1, a.plot.top()), QPointF(x2, a.plot.bottom())), withAlpha(t.off, 0.06));
    const auto difference = s.differences[b].levelReLufsDb;
    QString words;
    const auto verdict = bandVerdict(s.differences[b]);
    if (s.anyReference() && difference) {
      words = (*difference > 0.04 ? "+" : "") + QString::fromStdString(fixedNumber(*difference, 1));
    } else {
      words = QString::fromStdString(fixedNumber(s.sum.low.bandDb(b), 1));
    }
    drawDimension(p, QPointF(x1, a.bandY), QPointF(x2, a.bandY), words,
                  verdict ? verdictColour(*verdict) : t.ink, t.panel);
    if (!verdict || !s.hasBacking) continue;
    p.setFont(axisFont());
    const QString said = *verdict == Verdict::Holds      ? "in range"
                         : s.differences[b].beyondDb > 0 ? "over"
                                                         : "under";
    drawLabel(p, QPointF((x1 + x2) / 2, a.bandY + 12), Qt::AlignHCenter | Qt::AlignTop, said,
              verdictColour(*verdict), QColor(0, 0, 0, 0));
  }
  p.setFont(axisFont());
  drawLabel(p, QPointF(a.plot.left() - 8, a.bandY), Qt::AlignRight | Qt::AlignVCenter, "bands", t.muted,
            QColor(0, 0, 0, 0));
  drawLabel(p, QPointF(a.plot.right(), a.bandY), Qt::AlignRight | Qt::AlignVCenter,
            s.anyReference() ? "dB against the median" : "dB below the total", t.muted, QColor(0, 0, 0, 0));
}

// Parts beside the pair share a colour: each has its name at its loudest point, or as near to that as no
// other name is.
// name is.
void FloorPicture::drawPartNames(QPainter& p, const Areas& a, const std::vector<CompareCurve>& curves) const {
  p.setFont(axisFont());
  std::vector<QRectF> taken;
  for (const CompareCurve& c : curves) {
    const Part* part = c.part ? document().session().part(*c.part) : nullptr;
    if (!part) continue;
    const QString name = QString::fromStdString(part->title());
    const QSizeF size = p.fontMetrics().size(0, name) + QSize(8, 2);
    std::vector<size_t> louderFirst(c.db.size());
    std::iota(louderFirst.begin(), louderFirst.end(), size_t{0});
    std::stable_sort(louderFirst.begin(), louderFirst.end(),
                     [&](size_t i, size_t j) { return c.db[i] > c.db[j]; });
    for (const size_t i : louderFirst) {
      if (c.db[i] < a.level.from) break;
      const QPointF foot(a.hz.pixel(profileHz()[i]), a.level.pixel(std::min(c.db[i], a.level.to - 1.5)) - 3);
      const QRectF box(foot - QPointF(size.width() / 2, size.height()), size);
      if (std::any_of(taken.begin(), taken.end(), [&](const QRectF& t) { return t.intersects(box); })) continue;
      taken.push_back(box);
      drawLabel(p, foot, Qt::AlignHCenter | Qt::AlignBottom, name, theme().muted,
                withAlpha(theme().panel, 0.8));
      break;
    }
  }
}

void FloorPicture::drawLegend(QPainter& p, const Areas& a, const Study& s) const {
  const Theme& t = theme();
  p.setFont(axisFont());
  double y = a.plot.top() + 4;
  auto say = [&](const QString& text, const QColor& colour) {
    const QRectF box =
        drawLabel(p, QPointF(a.plot.right() - 8, y), Qt::AlignRight | Qt::AlignTop, text, colour, t.panel);
    y = box.bottom() + 3;
  };
  say(s.hasBacking ? "sum with backing (thick)" : "sum (thick)", t.ink);
  say("kick", t.kick);
  say("bass", t.bass);
  const QStringList names = referenceNames(document().session());
  if (!names.isEmpty())
    say((names.size() == 1 ? "reference: " : "references: ") + names.join(", "), t.referenceWords);
}

void FloorPicture::paintEvent(QPaintEvent*) {
  QPainter p(this);
  const Study* s = document().study();
  if (!s || s->empty)
    return drawEmpty(p, document().isBusy() ? "Measuring..."
                                            : "The sum of kick, bass and backing appears here beside your "
                                              "references. Drop sounds in Sounds first.");
  const auto drawn = compareCurves(*s, !plain_);
  const Areas a = areas(*s, drawn);
  drawGrid(p, a);
  drawBands(p, a, *s);
  drawCurves(p, a, drawn, floorShown(*s));
  drawPartNames(p, a, drawn);
  drawLegend(p, a, *s);
  p.setFont(bodyFont());
  drawLabel(p, QPointF(a.plot.left(), 22), Qt::AlignLeft | Qt::AlignTop, missing(*s), theme().watch,
            QColor(0, 0, 0, 0));
}

QString FloorPicture::missing(const Study& s) const {
  if (!s.hasBacking)
    return "Kick and bass alone are not a mix: load a backing to judge levels. Only the shape is shown.";
  if (s.anyReference()) return {};
  return s.notMeasured.empty() ? "No reference yet: add a finished track that is known to sound right."
                               : "The references are not measured yet.";
}

ComparePage::ComparePage(Document& document, Selection& selection)
    : StagePage(Stage::Compare, document, selection) {
  picture_ = new FloorPicture(document, selection);
  setPicture(picture_);
  auto study = [&document] { return document.study(); };
  addField({.caption = "References",
            .name = "References",
            .tip = "Finished tracks to compare with",
            .text = [&document] {
              const auto n = document.session().references.size();
              return n == 0 ? QString("none") : n == 1 ? QString("1 track") : QString("%1 tracks").arg(n);
            }});
  addField({.caption = "View",
            .name = "View",
            .tip = "Against the references' median as a flat line, or plain spectra",
            .text = [this] { return QString(picture_->isPlain() ? "plain spectra" : "against the median"); },
            .choices =
                [] {
                  return QStringList{"against the median", "plain spectra"};
                },
            .choose = [this](int i) { picture_->setPlain(i == 1); }});
  auto number = [this, study](const char* caption, const char* name, const char* tip,
                              std::function<QString(const Study&)> text) {
    addField({.caption = caption, .name = name, .tip = tip, .text = [study, text] {
                return study() && !study()->empty ? text(*study()) : QString("none");
              }});
  };
  number("Side below 120 Hz", "Side level", "Side level relative to mid, 20 to 120 Hz", [](const Study& s) {
    return s.sum.low.sideDbBelow120 && *s.sum.low.sideDbBelow120 > -119 ? dbText(*s.sum.low.sideDbBelow120, 0)
                                                                        : QString("mono");
  });
  number("Low crest", "Low crest", "Crest factor below 120 Hz",
         [](const Study& s) { return dbText(s.sum.low.crestLowDb, 1, false); });
  number("Kick to bass", "Kick to bass", "Power of the kick against the bass's, 20 to 120 Hz",
         [](const Study& s) {
           const auto db = s.kickToBassDb();
           return db ? dbText(*db) : QString("none");
         });
  auto* add = new QPushButton("Add references");
  add->setObjectName("Add references");
  add->setToolTip("Choose finished tracks to compare with, or drop them on this page");
  connect(add, &QPushButton::clicked, this, &ComparePage::addReferences);
  addToFields(add);
  remove_ = new QPushButton("Remove");
  remove_->setObjectName("Remove reference");
  remove_->setToolTip("Remove a reference");
  connect(remove_, &QPushButton::clicked, this, &ComparePage::removeReference);
  addToFields(remove_);
  auto canRemove = [this, &document] { remove_->setEnabled(!document.session().references.empty()); };
  for (auto signal : {&Document::changed, &Document::replaced}) connect(&document, signal, this, canRemove);
  canRemove();
  setAcceptDrops(true);
  refresh();
}

void ComparePage::addReferences() {
  document().loadSoundFiles(kReferences, askForSounds(this, "Add references"));
}

// Finished tracks are dropped anywhere on the page.
void ComparePage::dragEnterEvent(QDragEnterEvent* event) {
  if (event->mimeData()->hasUrls()) event->acceptProposedAction();
}

void ComparePage::dropEvent(QDropEvent* event) {
  const QStringList files = localFiles(event->mimeData());
  if (files.isEmpty()) return;
  document().loadSoundFiles(kReferences, files);
  event->acceptProposedAction();
}

void ComparePage::removeReference() {
  QMenu menu(this);
  menu.setObjectName("Remove reference menu");
  const QStringList names = referenceNames(document().session());
  for (qsizetype i = 0; i < names.size(); ++i)
    menu.addAction(QString(names[i]).replace("&", "&&"))->setData(static_cast<int>(i));
  const QAction* chosen = menu.exec(QCursor::pos());
  if (!chosen || !chosen->data().isValid()) return;
  document().edit(heft::removeReference(static_cast<size_t>(chosen->data().toInt())));
}

void ComparePage::mark(const Finding& finding) {
  std::optional<size_t> band;
  for (size_t b = 0; b < kBands.size(); ++b)
    if (finding.id == bandLineId(b)) band = b;
  picture_->markBand(band);
}

QString ComparePage::subtitle() const {
  const Study* s = document().study();
  if (!s || s->empty) return "check the low end beside tracks known to sound right";
  const auto n = document().session().references.size();
  return QString(s->hasBacking ? "the sum with backing" : "kick and bass alone") +
         (n ? QString(", %1 reference%2, loudness matched").arg(n).arg(n == 1 ? "" : "s") : QString());
}

}  // namespace heft::app
