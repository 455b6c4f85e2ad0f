#include "app/document/fixes.h"

#include <algorithm>

#include "app/document/aside.h"
#include "app/document/document.h"
#include "core/session/edits/track.h"

namespace heft::app {

void Fixes::apply(const Finding& finding) {
  if (finding.remedy) document_.edit(finding.remedy->edit());
}

void Fixes::mend(const std::string& name, const std::vector<std::string>& only) {
  auto work = [s = document_.session(), a = document_.assets(), cache = document_.cache(),
               only](const std::stop_token& stop) {
    return heft::mendAll(s, a, *cache, {.only = only}, stop, References::TakeWhatIsKnown);
  };
  auto then = [this, name, only, was = document_.session()](Result<MendedSession> done) {
    if (!done) {
      if (done.error().kind != ErrorKind::Cancelled)
        document_.fail(QString::fromStdString(done.error().sentence()));
      return;
    }
    applyList(name, *done, was, only);
  };
  document_.jobs().start("Testing fixes", Jobs::Kind::CanBeCancelled, work, std::move(then));
}

void Fixes::weigh(const Remedy& other, std::function<void(const Remedy&)> then) {
  auto work = [s = document_.session(), a = document_.assets(), cache = document_.cache(),
               lines = document_.findings(),
               other](const std::stop_token& stop) { return weighed(s, a, lines, other, *cache, stop); };
  auto done = [this, then = std::move(then), was = document_.session()](const Result<Remedy>& tried) {
    if (!tried) {
      if (tried.error().kind != ErrorKind::Cancelled)
        document_.fail(QString::fromStdString(tried.error().sentence()));
      return;
    }
    if (document_.session() != was)
      return document_.tell("The session changed meanwhile, so nothing was fixed. Choose again.");
    then(*tried);
  };
  document_.jobs().start("Testing a fix", Jobs::Kind::CanBeCancelled, work, std::move(done));
}

void Fixes::applyList(const std::string& name, const MendedSession& done, const Session& was,
                      const std::vector<std::string>& only) {
  if (document_.session() != was)
    return document_.tell("The session changed meanwhile, so nothing was fixed. Press again.");
  if (done.mended.empty()) return document_.tell("No fix helps without making something else worse.");
  document_.edit(become(name, done.session));
  QString words = "Fixed: " + QString::fromStdString(wordsOf(done.mended)) + ".";
  const auto left = std::count_if(done.left.begin(), done.left.end(), [&](const Finding& f) {
    return only.empty() || std::find(only.begin(), only.end(), f.id) != only.end();
  });
  if (left > 0) words += QString(" Your call: %1.").arg(left);
  document_.tell(words);
}

void Fixes::list(const FixChoice& choice, const std::stop_token& stop,
                 std::function<void(const MendedSession&, const Session&)> then) {
  auto work = [s = document_.session(), a = document_.assets(), cache = document_.cache(), choice, stop] {
    return heft::mendAll(s, a, *cache, choice, stop, References::TakeWhatIsKnown);
  };
  auto done = [this, stop, then = std::move(then),
               was = document_.session()](const Result<MendedSession>& fixes) {
    if (stop.stop_requested()) return;
    if (!fixes) return document_.fail(QString::fromStdString(fixes.error().sentence()));
    then(*fixes, was);
  };
  runAside(&document_, work, done, document_.failing());
}

void Fixes::setMeantSo(const std::string& id, bool meant) {
  document_.edit(heft::setMeantSo(id, meant));
}

}  // namespace heft::app
