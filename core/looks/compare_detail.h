#pragma once
/// Everything that Compare's pictures show of the sum and of the references' sections.

#include "core/compare/bar_fold.h"
#include "core/compare/section_facts.h"
#include "core/study/study.h"

namespace heft {

struct ComparedSection {
  SectionRef of;
  ProfilePtr profile;
  std::shared_ptr<const SectionFacts> facts;
  std::optional<Told> swing;  ///< nothing without its tempo (swingOf)
};

struct CompareDetail {
  ProfilePtr mine;  ///< of the sum; nothing where nothing sounds
  SectionFacts mineFacts;
  std::optional<Told> mineSwing;
  std::vector<ComparedSection> sections;  ///< measured ones, in the session's order

  /// Median and span of a figure over the sections that count and have it; nothing where none has it.
  struct Span {
    double median = 0.0, least = 0.0, most = 0.0;
    size_t count = 0;
  };
  std::optional<Span> spanOf(const std::function<std::optional<double>(const ComparedSection&)>& figure) const;
};

/// Sections that are in the cache; the sum as it plays. The sum's facts are those of its parts, not of its mix:
/// each as it is for the references. Errors: Cancelled. Cost: facts of a new section, 25 ms a second; the sum's
/// own about 30 ms a second.
Result<CompareDetail> compareDetail(const Session& session, const Study& study, const Stems& stems,
                                    StepCache& cache, const std::stop_token& stop = {});

/// Over `quarters`, started at its bar; of a section whose first beat is known. Empty without a tempo.
BarFold sectionFold(const ComparedSection& section, const Session& session, FoldAsk ask);
BarFold mineFold(const CompareDetail& detail, const Session& session, FoldAsk ask);

}  // namespace heft
