#include "app/document/document.h"

#include <algorithm>

namespace heft::app {

Document::Document(std::shared_ptr<StepCache> cache)
    : files_(*this), sounds_(*this), references_(*this), fixes_(*this), cache_(std::move(cache)) {
  connect(&jobs_, &Jobs::faulted, this, &Document::failed);
  worker_ = std::make_unique<Worker>(
      [this](Outcome outcome) {
        QMetaObject::invokeMethod(
            this, [this, o = std::make_shared<Outcome>(std::move(outcome))] { take(std::move(*o)); },
            Qt::QueuedConnection);
      },
      cache_);
}

Document::~Document() {
  worker_.reset();
}

void Document::edit(const Edit& edit) {
  Session next = edit.applied(session());
  if (next == session()) return;
  if (edit.turned) Q_EMIT turning(*edit.turned);
  history_.apply(edit.name, std::move(next), edit.mergeKey);
  dropForgottenSounds();
  edit.silent ? announce() : submit();
  if (edit.turned) Q_EMIT turned(*edit.turned);
}

// Drops sounds that no undo needs, unless they are heard.
void Document::dropForgottenSounds() {
  const auto forgotten = history_.takeForgottenSounds();
  if (forgotten.empty()) return;
  const Session before = before_.applied(session()),
                heard = heardEdit_ ? heardEdit_->applied(session()) : before;
  sounds_.drop(forgotten, {&before, &heard});
}

void Document::undo() {
  history_.undo();
  submit();
}

void Document::redo() {
  history_.redo();
  submit();
}

void Document::replace(Session session, Assets assets, const QString& folder) {
  ++generation_;
  jobs_.cancel();
  before_ = leaveOut();
  heardEdit_.reset();
  history_ = History(std::move(session));
  files_.replaced(folder), sounds_.replaced(std::move(assets)), references_.replaced();
  stems_.reset(), waves_.reset(), layers_.reset(), study_.reset(), snapshot_.reset(), findings_.clear();
  Q_EMIT replaced();
  submit();
}

void Document::newSession() {
  replace({}, {}, {});
}

void Document::setDeviceRate(double rate) {
  if (rate == deviceRate_) return;
  deviceRate_ = rate;
  submit();
}

void Document::setSilenced(const SilencedLanes& lanes) {
  if (lanes == silenced_) return;
  silenced_ = lanes;
  // With few lanes every combination is matched beforehand.
  if (session().sum.finish.works() || session().parts.size() > 3 || listen_.isPrepared()) submit();
}

void Document::setListen(const ListenTo& listen) {
  const bool renders = listen.isPrepared() || listen_.isPrepared();
  listen_ = listen;
  if (renders) submit();
}

void Document::hearAnew() {
  heard_.reset();
  if (heardEdit_) heard_ = heardEdit_->applied(session());
}

void Document::setHeard(std::optional<Edit> edit) {
  heardEdit_ = std::move(edit);
  hearAnew();
  Q_EMIT heardChanged();
}

void Document::setBefore(Edit before) {
  before_ = std::move(before);
  submit();
}

void Document::submit() {
  worker_->submit({++submitted_, session(), assets(), deviceRate_, References::TakeWhatIsKnown, before_,
                   silenced_, playhead_, beforeIsHeard_, listen_});
  announce();
}

void Document::announce() {
  files_.autosave().wake(), references_.wake();
  hearAnew();
  Q_EMIT changed();
}

const LayerSound* Document::layerSound(int part, int layer) const {
  if (!layers_) return nullptr;
  const auto at = std::find_if(layers_->begin(), layers_->end(),
                               [&](const LayerSound& l) { return l.part == part && l.layer == layer; });
  return at == layers_->end() ? nullptr : &*at;
}

void Document::take(Outcome outcome) {
  if (outcome.number != submitted_) {
    // Overtaken by a newer edit, but its sound is still closer to the present than what plays.
    if (outcome.number + 1 < submitted_ || outcome.study) return;
  }
  if (!outcome.fault.empty()) {
    // The former sound keeps playing.
    studied_ = outcome.number, remediesTried_ = true;
    Q_EMIT failed(QString::fromStdString("Not heard yet: " + outcome.fault));
    Q_EMIT studied();
    return;
  }
  const bool isHeard = stems_ == outcome.stems;
  const bool levelsAlone = isHeard && outcome.levels && !outcome.study;
  if (outcome.levels) levels_ = std::move(outcome.levels), levelsBefore_ = std::move(outcome.levelsBefore);
  if (outcome.waves && outcome.waves != waves_) {
    waves_ = outcome.waves, peaks_ = outcome.peaks;
    Q_EMIT waved();
  }
  if (levelsAlone) return;
  // A song is drawn as it was until its lanes have been looked at.
  if (!session().track.song) waves_.reset();
  stems_ = std::move(outcome.stems);
  snapshot_ = std::move(outcome.snapshot);
  if (outcome.peaks) peaks_ = std::move(outcome.peaks);
  // A tried remedy changes nothing that plays or is drawn.
  if (!isHeard || layersTaken_ != outcome.layers) {
    layersTaken_ = outcome.layers;
    auto layers = *outcome.layers;
    if (layers_) keepFigures(layers, *layers_);
    layers_ = std::make_shared<const std::vector<LayerSound>>(std::move(layers));
    Q_EMIT rendered();
  }
  if (!outcome.study) return;
  study_ = std::move(outcome.study);
  findings_ = std::move(outcome.findings);
  studied_ = outcome.number;
  remediesTried_ = outcome.triedAll;
  references_.measure();
  Q_EMIT studied();
}

}  // namespace heft::app
