// check, render, demo: whole sessions.

#include "cli/commands.h"
#include "core/ledger/ledger.h"
#include "core/render/export_files.h"
#include "core/session/folder.h"
#include "scenario/make_demo.h"

namespace heft::cli {
namespace {

struct Rendered {
  OpenedSession opened;
  Stems stems;
};

Result<Rendered> rendered(const std::string& folder, StepCache& cache) {
  auto opened = openSession(folder);
  if (!opened) return Fail(opened.error());
  auto stems = render(opened->session, opened->assets, cache);
  if (!stems) return Fail(stems.error());
  return Rendered{std::move(*opened), std::move(*stems)};
}

Json warningsOf(const OpenedSession& opened) {
  Json out = Json::array();
  for (const auto& w : opened.warnings) out.push_back(w);
  return out;
}

}  // namespace

Result<Json> check(const std::string& folder) {
  StepCache cache;
  const auto r = rendered(folder, cache);
  if (!r) return Fail(r.error());
  const auto facts = study(r->opened.session, r->opened.assets, r->stems, cache);
  if (!facts) return Fail(facts.error());
  Json findings = Json::array();
  for (const Finding& f : ledger(r->opened.session, *facts)) {
    Json j = {{"id", f.id},
              {"stage", stageName(f.stage)},
              {"verdict", verdictName(f.verdict)},
              {"sentence", f.sentence},
              {"measured", f.measured},
              {"target", f.target},
              {"value", number(f.value)},
              {"unit", f.unit}};
    j["remedy"] = f.remedy ? Json(f.remedy->name) : Json(nullptr);
    j["hit"] = f.hit >= 0 ? Json(f.hit + 1) : Json(nullptr);
    j["meant_so"] = f.meantSo;
    findings.push_back(std::move(j));
  }
  return Json{{"session", folder}, {"findings", findings}, {"warnings", warningsOf(r->opened)}};
}

Result<Json> renderTo(const RenderOptions& o) {
  StepCache cache;
  const auto r = rendered(o.session, cache);
  if (!r) return Fail(r.error());
  const auto files = exportFiles(r->opened.session, r->opened.assets, r->stems, cache);
  if (!files) return Fail(files.error());
  if (auto wrote = writeExport(o.folder, *files); !wrote) return Fail(wrote.error());
  Json list = Json::array();
  for (const ExportFile& f : *files)
    list.push_back({{"name", f.name}, {"what", f.what}, {"details", f.details}, {"bytes", f.bytes.size()}});
  return Json{{"folder", o.folder}, {"files", list}, {"warnings", warningsOf(r->opened)}};
}

Result<Json> writeDemo(const std::string& folder) {
  const auto written = demo::write(folder);
  if (!written) return Fail(written.error());
  return Json{{"session", *written}};
}

}  // namespace heft::cli
