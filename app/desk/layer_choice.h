#pragma once
/// The selection of the Sounds stage: the backing, or a layer of a part.

#include <QObject>
#include <map>

#include "app/document/document.h"
#include "core/session/value_at.h"

namespace heft::app {

/// Where there is no room for another processor.
inline constexpr const char* kChainFull = "A chain holds ten processors: remove one first.";

/// A processor, or, without an id, all of them of a layer, a part or the sum.
struct ChainPlace {
  Owner of;
  std::optional<int> id = {};
  bool operator==(const ChainPlace&) const = default;
  Owner owner() const { return {of.part, of.layer, {}, id}; }
};

class LayerChoice : public QObject {
  Q_OBJECT
 public:
  explicit LayerChoice(Document& document) : document_(document) {}

  /// The selection; the first kick where its part is gone.
  Place place() const { return !place_.isPart() || partAt(session(), place_) ? place_ : kickOf(session()); }
  bool isBacking() const { return place() == kBacking; }
  bool isSum() const { return place() == kSum; }
  int id() const { return id_; }
  void choose(Place place, int id) {
    const Processor* was = processor();
    const auto kind = was ? std::optional(was->what.index()) : std::nullopt;
    place_ = place, id_ = id;
    beside_ = false;
    goAlong(kind);
    Q_EMIT changed();
  }
  /// The selected part, or the kick.
  const Part& part() const { return place().isPart() ? *session().part(place().id) : session().kick(); }
  bool playsNotes() const { return place().isPart() && part().playsNotes(); }
  bool playsHits() const { return place().isPart() && !part().playsNotes(); }
  const Versions& versions() const { return part().versions; }
  /// The version that the present one is compared with: the one chosen for it, or a neighbour; nothing where
  /// there is no other.
  std::optional<size_t> against() const {
    const Versions& v = versions();
    const auto now = static_cast<size_t>(v.now);
    if (v.all.size() < 2) return std::nullopt;
    const auto found = against_.find(part().id);
    const size_t chosen = found == against_.end() ? kMostVersions : found->second;
    return chosen < v.all.size() && chosen != now ? chosen : now > 0 ? now - 1 : 1;
  }
  /// Whether two versions are shown side by side instead of a layer.
  bool isBeside() const { return beside_ && against(); }
  void compareWith(Place place, size_t version) {
    if (place_ != place) place_ = place;
    against_[place.id] = version;
    beside_ = true;
    Q_EMIT changed();
  }
  /// The layer, or the part's first where the chosen one is gone; nothing for the backing or an empty part.
  const Layer* layer() const {
    const Part* part = place().isPart() ? session().part(place().id) : nullptr;
    const Layer* chosen = part ? part->layer(id_) : nullptr;
    return chosen || !part ? chosen : part->firstLayer();
  }
  /// Owner of the fields' values: the layer, or nothing without one.
  std::optional<Owner> layerOwner() const {
    const Layer* l = layer();
    return l ? std::optional(Owner{.part = part().id, .layer = l->id}) : std::nullopt;
  }
  /// The sound's chains in order: the layer's processors, its part's, the sum's.
  std::vector<Owner> chains() const {
    std::vector<Owner> out;
    if (const auto layer = layerOwner()) out.push_back(*layer);
    if (place().isPart()) out.push_back(Owner{.part = part().id});
    out.push_back(Owner());
    return out;
  }
  /// The selected processor, if any; where another sound is chosen, that one's of the same kind.
  const std::optional<ChainPlace>& chainPlace() const { return chainPlace_; }
  void lookAt(const std::optional<ChainPlace>& place) {
    if (chainPlace_ == place) return;
    chainPlace_ = place;
    Q_EMIT changed();
  }
  const Processor* processor() const { return processorIn(session()); }
  /// The same one in another state of the session.
  const Processor* processorIn(const Session& s) const {
    const Chain* chain = chainPlace_ ? chainOf(s, chainPlace_->of) : nullptr;
    return chain && chainPlace_->id ? chain->find(*chainPlace_->id) : nullptr;
  }
  Document& document() const { return document_; }

 Q_SIGNALS:
  void changed();

 private:
  const Session& session() const { return document_.session(); }
  // The selected processor follows to another sound: its first of that kind, at the same level.
  void goAlong(std::optional<size_t> kind) {
    if (!chainPlace_) return;
    const ChainPlace was = *std::exchange(chainPlace_, std::nullopt);
    for (const Owner& of : chains()) {
      const Chain* chain = chainOf(session(), of);
      if (!chain || of.layer.has_value() != was.of.layer.has_value() ||
          of.part.has_value() != was.of.part.has_value())
        continue;
      if (of == was.of || !was.id) chainPlace_ = ChainPlace{of, was.id};
      for (const Processor& p : chain->list)
        if (!chainPlace_ && kind == p.what.index()) chainPlace_ = ChainPlace{of, p.id};
    }
  }
  Document& document_;
  Place place_;
  int id_ = 1;
  std::map<int, size_t> against_;  ///< versions to compare with, by part
  bool beside_ = false;
  std::optional<ChainPlace> chainPlace_;
};

}  // namespace heft::app
