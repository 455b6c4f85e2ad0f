#pragma once
/// Which sound the Sounds stage looks at: the backing, or a layer of a part.

#include <QObject>

#include "app/document.h"

namespace heft::app {

/// A part's layer by its id; nothing where there is none.
inline Layer* layerIn(Session& s, Role role, int id) {
  if (role != Role::Kick && role != Role::Bass) return nullptr;
  for (Layer& l : role == Role::Bass ? s.bass().layers : s.kick().layers)
    if (l.id == id) return &l;
  return nullptr;
}

class LayerChoice : public QObject {
  Q_OBJECT
 public:
  explicit LayerChoice(Document& document) : document_(document) {}

  Role role() const { return role_; }
  int id() const { return id_; }
  void choose(Role role, int id) {
    role_ = role, id_ = id;
    beside_ = false;
    Q_EMIT changed();
  }
  /// The part that is looked at, the kick's while it is the backing.
  Role part() const { return role_ == Role::Bass ? Role::Bass : Role::Kick; }
  const Versions& versions() const {
    const Session& s = document_.session();
    return part() == Role::Bass ? s.bass().versions : s.kick().versions;
  }
  /// The version that the present one is compared with: the one that was chosen for it, or a neighbour; nothing
  /// where there is no other.
  std::optional<size_t> against() const {
    const Versions& v = versions();
    const auto now = static_cast<size_t>(v.now);
    if (v.all.size() < 2) return std::nullopt;
    const size_t chosen = against_[part() == Role::Bass];
    return chosen < v.all.size() && chosen != now ? chosen : now > 0 ? now - 1 : 1;
  }
  /// Whether the two versions are looked at beside each other instead of a layer.
  bool isBeside() const { return beside_ && against(); }
  void compareWith(Role role, size_t version) {
    if (part() != role || role_ == Role::Backing) role_ = role;
    against_[role == Role::Bass] = version;
    beside_ = true;
    Q_EMIT changed();
  }
  /// The layer, or the part's first where the chosen one is gone; nothing for the backing or an empty part.
  const Layer* layer() const { return in(document_.session()); }
  const Layer* in(const Session& s) const { return find(const_cast<Session&>(s)); }
  Layer* in(Session& s) const { return find(s); }
  /// One undoable edit of the chosen layer.
  void edit(const QString& name, const std::function<void(Layer&)>& change, const QString& merge = {}) const {
    document_.edit(
        name,
        [&](Session& s) {
          if (Layer* l = find(s)) change(*l);
        },
        merge);
  }
  /// The part's finish.
  const Finish& finish() const {
    return role_ == Role::Bass ? document_.session().bass().finish : document_.session().kick().finish;
  }
  void editFinish(const QString& name, const std::function<void(Finish&)>& change,
                  const QString& merge = {}) const {
    document_.edit(
        name, [&](Session& s) { change(role_ == Role::Bass ? s.bass().finish : s.kick().finish); }, merge);
  }
  Document& document() const { return document_; }

 Q_SIGNALS:
  void changed();

 private:
  Layer* find(Session& s) const {
    if (role_ == Role::Backing) return nullptr;
    if (Layer* l = layerIn(s, role_, id_)) return l;
    auto& layers = role_ == Role::Bass ? s.bass().layers : s.kick().layers;
    return layers.empty() ? nullptr : &layers.front();
  }
  Document& document_;
  Role role_ = Role::Kick;
  int id_ = 1;
  size_t against_[2] = {kMostVersions, kMostVersions};  ///< kick, bass
  bool beside_ = false;
};

}  // namespace heft::app
