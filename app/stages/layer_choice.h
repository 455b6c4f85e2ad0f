#pragma once
/// Which sound the Sounds stage looks at: the backing, or a layer of a part.

#include <QObject>
#include <map>

#include "app/document/document.h"
#include "core/session/value_at.h"

namespace heft::app {

class LayerChoice : public QObject {
  Q_OBJECT
 public:
  explicit LayerChoice(Document& document) : document_(document) {}

  /// What was chosen; the first kick where that part is gone.
  Place place() const { return !place_.isPart() || partAt(session(), place_) ? place_ : kickOf(session()); }
  bool isBacking() const { return place() == kBacking; }
  bool isSum() const { return place() == kSum; }
  int id() const { return id_; }
  void choose(Place place, int id) {
    place_ = place, id_ = id;
    beside_ = false;
    Q_EMIT changed();
  }
  /// The part that is looked at, the kick while it is none.
  const Part& part() const { return place().isPart() ? *session().part(place().id) : session().kick(); }
  bool playsNotes() const { return place().isPart() && part().playsNotes(); }
  bool playsHits() const { return place().isPart() && !part().playsNotes(); }
  const Versions& versions() const { return part().versions; }
  /// The version that the present one is compared with: the one that was chosen for it, or a neighbour; nothing
  /// where there is no other.
  std::optional<size_t> against() const {
    const Versions& v = versions();
    const auto now = static_cast<size_t>(v.now);
    if (v.all.size() < 2) return std::nullopt;
    const auto found = against_.find(part().id);
    const size_t chosen = found == against_.end() ? kMostVersions : found->second;
    return chosen < v.all.size() && chosen != now ? chosen : now > 0 ? now - 1 : 1;
  }
  /// Whether the two versions are looked at beside each other instead of a layer.
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
  /// Whose values fields change: the layer, or nothing where there is none.
  std::optional<Owner> layerOwner() const {
    const Layer* l = layer();
    return l ? std::optional(Owner{.part = part().id, .layer = l->id}) : std::nullopt;
  }
  /// The part's finish, or the sum's.
  const Finish& finish() const { return isSum() ? session().sum.finish : part().finish; }
  Owner finishOwner() const { return isSum() ? Owner() : Owner{.part = part().id}; }
  Document& document() const { return document_; }

 Q_SIGNALS:
  void changed();

 private:
  const Session& session() const { return document_.session(); }
  Document& document_;
  Place place_;
  int id_ = 1;
  std::map<int, size_t> against_;  ///< versions to compare with, by part
  bool beside_ = false;
};

}  // namespace heft::app
