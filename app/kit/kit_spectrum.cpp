#include "app/kit/kit_spectrum.h"

#include "app/pictures/spectrum_axis.h"
#include "app/theme/theme.h"

namespace heft::app {
KitSpectrum::KitSpectrum(Document& document) : document_(document) {
  setObjectName("Kit spectrum");
  setAccessibleName("Kit spectrum");
  setToolTip("Spectrum of the chosen drum: thick as it is tuned, dashed as recorded (F)");
}

void KitSpectrum::show(const std::optional<Drum>& drum) {
  drum_ = drum;
  measure();
}

void KitSpectrum::measure() {
  if (!isVisible()) return;
  aside_.ask(
      this,
      [this] {
        return [drum = drum_, a4 = document_.track().notes.a4Hz, tempo = document_.track().tempoBpm] {
          return drum ? drumSpectra(*drum, a4, tempo) : DrumSpectra();
        };
      },
      [this](DrumSpectra found) {
        spectra_ = std::move(found);
        update();
      },
      document_.failing());
}

void KitSpectrum::paintEvent(QPaintEvent*) {
  QPainter p(this);
  const Theme& t = theme();
  p.fillRect(rect(), t.page);
  if (spectra_.recordedDb.empty()) {
    p.setFont(bodyFont());
    p.setPen(t.muted);
    const QString words = isMeasuring() ? "Measuring..." : "Choose a drum to see its spectrum.";
    return p.drawText(rect().adjusted(20, 0, -20, 0), Qt::AlignCenter | Qt::TextWordWrap, words);
  }
  const SpectrumAxes axes = spectrumAxes(spectra_.recordedDb, plot());
  drawSpectrumScale(p, document_.track(), axes, plot());
  p.save();
  p.setClipRect(plot());
  p.setRenderHint(QPainter::Antialiasing);
  p.setPen(spectra_.tunedDb.empty() ? QPen(t.ink, 1.5) : QPen(t.muted, 1.0, Qt::DashLine));
  drawLineThrough(p, spectrumLine(spectra_.recordedDb, axes.hz, axes.level));
  p.setPen(QPen(t.ink, 1.5));
  if (!spectra_.tunedDb.empty()) drawLineThrough(p, spectrumLine(spectra_.tunedDb, axes.hz, axes.level));
  p.restore();
  p.setPen(QPen(t.muted, 1.0));
  p.drawLine(plot().bottomLeft(), plot().bottomRight());
}

}  // namespace heft::app
