// The Ledger's fixes on the open session: one, some at once, or a list of all before it is applied.

#include <algorithm>

#include "app/document/document.h"
#include "core/remedies/remedies.h"

namespace heft::app {

void Document::apply(const Finding& finding) {
  if (finding.remedy) edit(finding.remedy->edit());
}

void Document::mend(const std::string& name, const std::vector<std::string>& only) {
  auto work = [s = session(), a = assets_, cache = cache_, only](const std::stop_token& stop) {
    return heft::mendAll(s, a, *cache, {.only = only}, stop, References::TakeWhatIsKnown);
  };
  auto then = [this, name, only, was = session()](Result<MendedSession> done) {
    if (!done) {
      if (done.error().kind != ErrorKind::Cancelled) fail(QString::fromStdString(done.error().sentence()));
      return;
    }
    applyFixes(name, *done, was, only);
  };
  jobs_.start("Testing fixes", Jobs::Kind::CanBeCancelled, work, std::move(then));
}

void Document::weigh(const Remedy& other, std::function<void(const Remedy&)> then) {
  auto work = [s = session(), a = assets_, cache = cache_, lines = findings(),
               other](const std::stop_token& stop) { return weighed(s, a, lines, other, *cache, stop); };
  auto done = [this, then = std::move(then), was = session()](const Result<Remedy>& tried) {
    if (!tried) {
      if (tried.error().kind != ErrorKind::Cancelled) fail(QString::fromStdString(tried.error().sentence()));
      return;
    }
    if (session() != was) return tell("The session changed meanwhile, so nothing was fixed. Choose again.");
    then(*tried);
  };
  jobs_.start("Testing a fix", Jobs::Kind::CanBeCancelled, work, std::move(done));
}

void Document::applyFixes(const std::string& name, const MendedSession& done, const Session& was,
                          const std::vector<std::string>& only) {
  if (session() != was) return tell("The session changed meanwhile, so nothing was fixed. Press again.");
  if (done.mended.empty()) return tell("No fix helps without making something else worse.");
  edit(become(name, done.session));
  QString words = "Fixed: " + QString::fromStdString(wordsOf(done.mended)) + ".";
  const auto left = std::count_if(done.left.begin(), done.left.end(), [&](const Finding& f) {
    return only.empty() || std::find(only.begin(), only.end(), f.id) != only.end();
  });
  if (left > 0) words += QString(" Your call: %1.").arg(left);
  tell(words);
}

void Document::listFixes(const FixChoice& choice, const std::stop_token& stop,
                         std::function<void(const MendedSession&, const Session&)> then) {
  auto work = [s = session(), a = assets_, cache = cache_, choice, stop] {
    return heft::mendAll(s, a, *cache, choice, stop, References::TakeWhatIsKnown);
  };
  auto done = [this, stop, then = std::move(then), was = session()](const Result<MendedSession>& fixes) {
    if (stop.stop_requested()) return;
    if (!fixes) return fail(QString::fromStdString(fixes.error().sentence()));
    then(*fixes, was);
  };
  runAside(this, work, done, failing());
}

}  // namespace heft::app
