#pragma once
/// Which sound the Sounds stage looks at: the backing, or a layer of a part.

#include <QObject>

#include "app/document.h"

namespace heft::app {

class LayerChoice : public QObject {
  Q_OBJECT
 public:
  explicit LayerChoice(Document& document) : document_(document) {}

  Role role() const { return role_; }
  int id() const { return id_; }
  void choose(Role role, int id) {
    role_ = role, id_ = id;
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
    return role_ == Role::Bass ? document_.session().bass.finish : document_.session().kick.finish;
  }
  void editFinish(const QString& name, const std::function<void(Finish&)>& change,
                  const QString& merge = {}) const {
    document_.edit(
        name, [&](Session& s) { change(role_ == Role::Bass ? s.bass.finish : s.kick.finish); }, merge);
  }
  Document& document() const { return document_; }

 Q_SIGNALS:
  void changed();

 private:
  Layer* find(Session& s) const {
    if (role_ == Role::Backing) return nullptr;
    auto& layers = role_ == Role::Bass ? s.bass.layers : s.kick.layers;
    for (Layer& l : layers)
      if (l.id == id_) return &l;
    return layers.empty() ? nullptr : &layers.front();
  }
  Document& document_;
  Role role_ = Role::Kick;
  int id_ = 1;
};

}  // namespace heft::app
