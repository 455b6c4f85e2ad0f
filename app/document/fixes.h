#pragma once
/// The Ledger's fixes on the open session: one, some at once, or a list of all before it is applied.

#include <functional>
#include <stop_token>
#include <string>
#include <vector>

#include "core/remedies/remedies.h"

namespace heft::app {

class Document;

class Fixes {
 public:
  explicit Fixes(Document& document) : document_(document) {}

  void apply(const Finding& finding);
  /// Applies all fixes that make no line worse and ask nothing, or those of some lines, by id; aside and then
  /// as one edit, which says what each did.
  void mend(const std::string& name, const std::vector<std::string>& only = {});
  void mendAll() { mend("fix all"); }
  /// Tries another fix of a line aside; `then` gets it with its side effect and why it asks, unless the session
  /// changed meanwhile.
  void weigh(const Remedy& other, std::function<void(const Remedy&)> then);
  /// Works out Fix all for the present session aside, until stopped; changes nothing. `then` gets it with
  /// that session.
  void list(const FixChoice& choice, const std::stop_token& stop,
            std::function<void(const MendedSession&, const Session&)> then);
  /// Applies it as one edit, if the session is still the one it was worked out for.
  void applyList(const std::string& name, const MendedSession& fixes, const Session& was,
                 const std::vector<std::string>& only = {});
  void setMeantSo(const std::string& id, bool meant);

 private:
  Document& document_;
};

}  // namespace heft::app
