// check, render, demo: whole sessions.

#include <unistd.h>

#include <algorithm>
#include <cstdio>

#include "cli/commands.h"
#include "cli/presets.h"
#include "cli/still_working.h"
#include "core/export/export_files.h"
#include "core/remedies/remedies.h"
#include "core/render/lanes/judged_stretch.h"
#include "core/session/edits/sections.h"
#include "core/session/folder.h"
#include "scenario/make_demo.h"

namespace heft::cli {
namespace {

struct Rendered {
  OpenedSession opened;
  Stems stems;
};

Result<Rendered> rendered(const std::string& folder, StepCache& cache,
                          const std::vector<std::string>& presets = {}) {
  const StillWorking telling("opening and rendering " + folder);
  auto opened = openSession(folder);
  if (!opened) return Fail(opened.error());
  if (auto used = usePresets(opened->session, opened->assets, presets); !used) return Fail(used.error());
  auto stems = render(opened->session, opened->assets, cache);
  if (!stems) return Fail(stems.error());
  return Rendered{std::move(*opened), std::move(*stems)};
}

Json warningsOf(const OpenedSession& opened) {
  Json out = Json::array();
  for (const auto& w : opened.warnings) out.push_back(w);
  return out;
}

// Shows progress only on a terminal; files and pipes get nothing but the answer.
std::function<void(const std::vector<Finding>&)> telling(const std::vector<Finding>& all) {
  if (!isatty(STDERR_FILENO)) return {};
  return [all = all.size()](const std::vector<Finding>& now) {
    const auto tried = std::count_if(now.begin(), now.end(), [](const Finding& f) { return f.tried; });
    std::fprintf(stderr, "\r\033[Kheft-cli: fixes tried for %d of %zu lines; Ctrl+C stops",
                 static_cast<int>(tried), all);
    if (static_cast<size_t>(tried) == all) std::fprintf(stderr, "\r\033[K");
  };
}

Json findingJson(const Finding& f) {
  Json j = {{"id", f.id},
            {"stage", stageName(f.stage)},
            {"verdict", verdictName(f.verdict)},
            {"sentence", f.sentence},
            {"measured", f.measured},
            {"target", f.target},
            {"value", number(f.value)},
            {"unit", f.unit}};
  j["remedy"] = f.remedy ? Json(f.remedy->name()) : Json(nullptr);
  j["price"] = f.remedy && !f.remedy->price.empty() ? Json(f.remedy->price) : Json(nullptr);
  j["replaces"] = f.remedy ? Json(f.remedy->replaces) : Json::array();
  j["asks"] = f.remedy && !f.remedy->asks.empty() ? Json(f.remedy->asks) : Json(nullptr);
  j["hit"] = f.hit ? Json(*f.hit + 1) : Json(nullptr);
  j["hits"] = Json::array();
  for (const HitLine& h : f.hits)
    j["hits"].push_back({{"hit", h.hit + 1}, {"verdict", verdictName(h.verdict)}, {"value", number(h.value)}});
  j["meant_so"] = f.meantSo;
  return j;
}

Json notesJson(const Session& s, const LineHeard& line) {
  Json out = Json::array();
  for (const NoteHeard& heard : line.notes) {
    const Note& n = s.bass().notes[heard.note];
    out.push_back({{"part", s.bass().role},
                   {"start", number(n.startQuarters)},
                   {"midi", n.midi},
                   {"phon", number(heard.phon)},
                   {"trim_db", number(n.trim.db)}});
  }
  return out;
}

Json fixJson(const Mended& m) {
  return {
      {"id", m.id},       {"name", m.name},         {"before", m.before},
      {"after", m.after}, {"was", number(m.was)},   {"is", m.is ? number(*m.is) : Json(nullptr)},
      {"unit", m.unit},   {"replaces", m.replaces}, {"price", m.price.empty() ? Json(nullptr) : Json(m.price)}};
}

// Ids that no line has are most likely typed wrong; lines that are in range have ids as well.
Result<void> knownIds(const std::vector<Finding>& lines, const std::vector<std::string>& ids) {
  for (const std::string& id : ids)
    if (std::none_of(lines.begin(), lines.end(), [&](const Finding& f) { return f.id == id; }))
      return badUsage("no line has the id \"" + id.substr(0, 64) + "\"; check lists them");
  return {};
}

}  // namespace

namespace {

Json sectionsJson(const Session& s, const Stems& stems, StepCache& cache) {
  Json out = Json::array();
  for (const TrackSection& section : s.sections) {
    const auto f = laneProgramme(stems.sum, stems.sampleRate, cache, rangeOfSection(s, section, stems.span));
    Json bands = Json::array();
    for (const Band& band : kBands) {
      const auto level = f ? f->bandReLufs(band) : std::nullopt;
      bands.push_back({{"low_hz", band.lowHz},
                       {"high_hz", band.highHz},
                       {"level_re_lufs", level ? number(*level, 3) : Json(nullptr)}});
    }
    out.push_back({{"name", section.name},
                   {"from_quarters", number(section.fromQuarters)},
                   {"to_quarters", number(section.toQuarters)},
                   {"integrated_lufs", f && f->integratedLufs ? number(*f->integratedLufs, 3) : Json(nullptr)},
                   {"bands", bands}});
  }
  return out;
}

Result<void> compareNamed(Session& s, const std::string& name) {
  if (name.empty()) return {};
  std::string known;
  for (const TrackSection& t : s.sections) {
    if (t.name == name) return s = compareSection(t.id).applied(s), Result<void>();
    known += (known.empty() ? "" : ", ") + t.name;
  }
  return badUsage("--section: no section is called \"" + name.substr(0, 64) + "\"; " +
                  (known.empty() ? "the session has none" : "there are " + known));
}

}  // namespace

Result<Json> check(const CheckOptions& o) {
  StepCache cache = StepCache().onAllThreads();
  auto r = rendered(o.session, cache);
  if (!r) return Fail(r.error());
  if (auto chosen = compareNamed(r->opened.session, o.section); !chosen) return Fail(chosen.error());
  const auto facts = [&] {
    const StillWorking working("measuring " + o.session);
    return study(r->opened.session, r->opened.assets, r->stems, cache);
  }();
  if (!facts) return Fail(facts.error());
  auto lines = ledger(r->opened.session, *facts);
  if (!o.noFixes) {
    auto tried = withTriedRemedies(r->opened.session, r->opened.assets, lines, cache, {}, References::Measure,
                                   telling(lines));
    if (!tried) return Fail(tried.error());
    lines = std::move(*tried);
  }
  Json findings = Json::array();
  for (const Finding& f : lines) findings.push_back(findingJson(f));
  return Json{{"session", o.session},
              {"findings", findings},
              {"notes", notesJson(r->opened.session, facts->line)},
              {"sections", sectionsJson(r->opened.session, r->stems, cache)},
              {"warnings", warningsOf(r->opened)}};
}

Result<Json> fix(const FixOptions& o) {
  if (o.list && !o.output.empty()) return badUsage("--list writes nothing: drop -o or --list");
  StepCache cache = StepCache().onAllThreads();
  const StillWorking working("trying fixes for " + o.session);
  auto opened = openSession(o.session);
  if (!opened) return Fail(opened.error());
  const auto lines = judgedSession(opened->session, opened->assets, cache);
  if (!lines) return Fail(lines.error());
  for (const auto* ids : {&o.only, &o.without})
    if (auto known = knownIds(*lines, *ids); !known) return Fail(known.error());
  const FixChoice choice{o.only, o.without, {o.only.begin(), o.only.end()}};
  const auto done = mendAll(opened->session, opened->assets, cache, choice);
  if (!done) return Fail(done.error());
  if (!o.output.empty())
    if (auto saved = saveSession(o.output, done->session, opened->assets); !saved) return Fail(saved.error());
  Json mended = Json::array(), left = Json::array();
  for (const Mended& m : done->mended) mended.push_back(fixJson(m));
  for (const Finding& f : done->left) left.push_back(findingJson(f));
  return Json{{"session", o.session},
              {"output", o.output.empty() ? Json(nullptr) : Json(o.output)},
              {"mended", mended},
              {"left", left},
              {"warnings", warningsOf(*opened)}};
}

namespace {

// Bars from --from up to --to; nothing where neither is given.
Result<std::optional<ExportStretch>> stretchOf(const RenderOptions& o, const Track& track) {
  if (o.from.empty() && o.to.empty()) return std::optional<ExportStretch>();
  const double bar = track.barQuarters(), end = 1.0 + track.loopQuarters() / bar;
  const auto from = numberOption("--from", o.from, {1, end}, 1.0),
             to = numberOption("--to", o.to, {1, end}, end);
  if (!from) return Fail(from.error());
  if (!to) return Fail(to.error());
  if (!(*to > *from)) return badUsage("--to: must be a bar after --from");
  return std::optional(ExportStretch{(*from - 1.0) * bar, (*to - 1.0) * bar});
}

}  // namespace

Result<Json> renderTo(const RenderOptions& o) {
  StepCache cache = StepCache().onAllThreads();
  if (!o.versions.empty() && o.versions != "all")
    return badUsage("--versions: \"" + o.versions.substr(0, 64) + "\" is not all");
  auto r = rendered(o.session, cache, o.presets);
  if (!r) return Fail(r.error());
  if (!o.versions.empty()) r->opened.session.exports.versions = true;
  const auto stretch = stretchOf(o, r->opened.session.track);
  if (!stretch) return Fail(stretch.error());
  const auto files = exportFiles(r->opened.session, r->opened.assets, r->stems, cache, *stretch);
  if (!files) return Fail(files.error());
  if (auto wrote = writeExport(o.folder, *files); !wrote) return Fail(wrote.error());
  Json list = Json::array();
  for (const ExportFile& f : *files)
    list.push_back({{"name", f.name},
                    {"what", f.what},
                    {"details", f.details},
                    {"bytes", static_cast<uint64_t>(sizeIn(o.folder, f))}});
  return Json{{"folder", o.folder}, {"files", list}, {"warnings", warningsOf(r->opened)}};
}

Result<Json> writeDemo(const std::string& folder) {
  const auto written = demo::write(folder);
  if (!written) return Fail(written.error());
  return Json{{"session", *written}};
}

}  // namespace heft::cli
