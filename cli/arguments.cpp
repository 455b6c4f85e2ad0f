// The parser's one file: it is a library of headers, costly to compile.

#include <CLI/CLI.hpp>
#include <memory>

#include "cli/commands.h"

namespace heft::cli {
namespace {

using Runs = std::vector<std::pair<CLI::App*, std::function<Result<Json>()>>>;

void addBandOptions(CLI::App& command, BandOptions& o) {
  command.add_option("--low", o.low, "lower edge of the search band, Hz (20)");
  command.add_option("--high", o.high,
                     "upper edge of the search band, Hz (400; claps and high snares up to 5000)");
  command.add_option("--landing-ms", o.landingMs, "set the landing by hand: time on the pitch path, ms");
  command.add_option("--landing-hz", o.landingHz, "set the landing by hand: frequency, Hz");
}

void addCompareCommand(CLI::App& app, Runs& runs) {
  auto* c = app.add_subcommand("compare", "a mix's low end beside references");
  auto co = std::make_shared<CompareOptions>();
  c->add_option("MIX", co->mix, "the mix")->required();
  c->add_option("REF", co->references, "references")->required();
  c->add_option("--section", co->section,
                "of the references: A:B in seconds, or in bars with --tempo (whole files)");
  c->add_option("--tempo", co->tempo, "the references' tempo in BPM: then --section and --by bar count bars");
  c->add_option("--by", co->by,
                "note: levels by semitone; bar: the low band over one bar (with --tempo, else found)");
  c->add_option("--ceiling", co->ceiling,
                "LUFS: the mix raised to that and limited at -1 dBTP: what its lows lose");
  c->add_option("--codec", co->codec, "mp3:128, vorbis:160 or opus:96: what a lossy file of the mix changes");
  c->add_flag("--speakers", co->speakers,
              "how loud the lows are on a phone, a laptop, a radio, in a car, on headphones");
  runs.emplace_back(c, [co] { return compare(*co); });
}

void addReferenceCommand(CLI::App& app, const std::shared_ptr<Common>& common, Runs& runs) {
  auto* r = app.add_subcommand("reference", "what the kick and bass of finished tracks do");
  auto ro = std::make_shared<ReferenceOptions>();
  r->add_option("FILE", ro->files, "finished tracks")->required();
  r->add_option("--section", ro->section,
                "A:B in seconds, or in bars with a tempo (the eight bars with the most low end)");
  r->add_option("--tempo", ro->tempo, "tempo in BPM (found)");
  r->add_option("--csv", ro->csv, "the facts as CSV too");
  runs.emplace_back(r, [ro, common] { return reference(*ro, *common); });
}

void addSoundCommands(CLI::App& app, const std::shared_ptr<Common>& common, Runs& runs) {
  auto* m = app.add_subcommand("measure", "landing note, fall, tail and levels of sounds");
  auto mo = std::make_shared<MeasureOptions>();
  m->add_option("FILE", mo->files, "sounds")->required();
  addBandOptions(*m, mo->band);
  m->add_flag("--path", mo->path, "add the pitch path: ms, Hz and dB re its loudest");
  m->add_option("--key", mo->key, "the track's key, such as \"A minor\"");
  m->add_option("--tempo", mo->tempo, "the track's tempo in BPM");
  runs.emplace_back(m, [mo, common] { return measure(*mo, *common); });

  auto* t = app.add_subcommand("tune", "tune a sound to a note, or a kit to notes of a key");
  auto to = std::make_shared<TuneOptions>();
  t->add_option("FILE", to->files, "the sound; with --key several")->required();
  t->add_option("--to", to->to, "the note, such as A1 or \"F#1 +12 ct\"");
  t->add_option("--to-hz", to->toHz, "the frequency");
  t->add_option("--with", to->with, "tune to the note of this bass, nearest octave");
  t->add_option("--key", to->key, "tune a kit: each file to the nearest suitable note of this key");
  addBandOptions(*t, to->band);
  t->add_option("--method", to->method,
                "required for one sound: varispeed, hold-length, bend or split (a kit: varispeed)");
  t->add_option("--strike-ms", to->strikeMs, "length left unchanged from the onset, ms (10)");
  t->add_option("-o", to->output, "the WAV to write; for a kit the folder")->required();
  runs.emplace_back(t, [to, common] { return tune(*to, *common); });

  auto* s = app.add_subcommand("split", "strike and body of a sound as files that add up to it");
  auto so = std::make_shared<SplitOptions>();
  s->add_option("KICK", so->kick, "the sound")->required();
  s->add_option("--at-ms", so->atMs, "split point after the onset, ms (end of the strike)");
  s->add_option("--join-ms", so->joinMs, "crossfade, ms (4)");
  s->add_option("-o", so->folder, "the folder to write to")->required();
  runs.emplace_back(s, [so] { return split(*so); });

  auto* k = app.add_subcommand("key", "key and tempo of loops and tracks");
  auto ko = std::make_shared<KeyOptions>();
  k->add_option("FILE", ko->files, "loops or tracks")->required();
  runs.emplace_back(k, [ko] { return keys(*ko); });
  addCompareCommand(app, runs);
  addReferenceCommand(app, common, runs);
}

void addDuckOutputs(CLI::App& d, DuckOptions& o) {
  d.add_option("-o", o.output, "the ducked bass to write")->required();
  d.add_option("--curve", o.curve, "the gain curve as CSV");
  d.add_option("--signal", o.signal, "the gain curve as a WAV of one channel, 0 to 1");
  d.add_option("--midi", o.midi, "the gain curve as MIDI controller data");
  d.add_option("--tempo", o.tempo, "tempo of MIDI files, BPM (default: that of a MIDI trigger, else 120)");
  d.add_option("--controller", o.controller, "controller number, 0 to 119; with 14 bits 0 to 31 (11)");
  d.add_option("--channel", o.channel, "MIDI channel, 1 to 16 (1)");
  d.add_option("--bits", o.bits, "7 or 14 (7)");
  d.add_option("--triggers-csv", o.triggersCsv, "the triggers as CSV");
  d.add_option("--triggers-midi", o.triggersMidi, "the triggers as MIDI notes");
}

void addDuckCommand(CLI::App& app, Runs& runs) {
  auto* d = app.add_subcommand("duck", "lower the bass at each kick");
  auto o = std::make_shared<DuckOptions>();
  d->add_option("BASS", o->bass, "the bass")->required();
  d->add_option("--trigger", o->triggers,
                "trigger: audio, x.mid[:NOTE,...] or CSV of seconds[,velocity]; repeatable")
      ->required()
      ->take_all();
  d->add_option("--method", o->method, "drawn, follow or mirror (drawn)");
  d->add_option(
      "--depth-db", o->depth,
      "depth, 0 to 120 dB: curve depth (drawn), gain reduction at the loudest hit (follow), limit (mirror)");
  d->add_option("--attack-ms", o->attack, "attack, ms (2)");
  d->add_option("--hold-ms", o->hold, "hold, ms (drawn 34, follow 0)");
  d->add_option("--release-ms", o->release, "release, ms (85); follow: to 1 - 1/e (36)");
  d->add_option("--points", o->points,
                "drawn: points of the curve as CSV, ms,gain_db[,bend], in place of the times");
  d->add_option("--velocity", o->velocity, "drawn: velocity sensitivity, % (0)");
  d->add_option("--threshold-db", o->threshold,
                "threshold of follow, dBFS, -80 to 0 (default: the loudest moment ducks by --depth-db)");
  d->add_option("--ratio", o->ratio, "follow: ratio, 1 to 100 (6)");
  d->add_option("--knee-db", o->knee, "follow: knee, 0 to 40 dB (6)");
  d->add_option("--lookahead-ms", o->lookahead, "follow: lookahead, 0 to 50 ms (0)");
  d->add_option("--level", o->level, "follow: level detector, peak or rms (peak)");
  d->add_option("--within-db", o->within, "mirror: level of both together above the louder, 0 to 6 dB (2)");
  d->add_option("--band", o->band, "all, below:HZ, or bell:NOTE[:OCTAVES], where NOTE may be landing (all)");
  d->add_option("--crossover", o->crossover, "short for --band below:HZ");
  d->add_option("--amount", o->amount, "scale the gain reduction, 0 to 100 % (100)");
  d->add_option("--trigger-highcut", o->highCut, "detection band: upper edge, Hz (100)");
  d->add_option("--trigger-lowcut", o->lowCut, "detection band: lower edge, Hz (none)");
  addDuckOutputs(*d, *o);
  runs.emplace_back(d, [o] { return duck(*o); });
}

void addPairCommands(CLI::App& app, Runs& runs) {
  auto* a = app.add_subcommand("align", "align kick and bass: two sounds, or a session");
  auto ao = std::make_shared<AlignOptions>();
  a->add_option("KICK", ao->kick, "the kick, or a session's folder, X.heft")->required();
  a->add_option("BASS", ao->bass, "the bass; a session has its own");
  a->add_option("--low", ao->low, "lower edge of the band, Hz (20)");
  a->add_option("--high", ao->high, "upper edge of the band, Hz (150)");
  a->add_option("--max-delay-ms", ao->maxDelayMs, "largest delay either way (20)");
  a->add_flag("--rotate", ao->rotate, "also try all-passes");
  a->add_flag("--per-note", ao->perNote, "session: timing and phase per note");
  a->add_flag("--apply", ao->apply, "session: apply the best way and write it to -o");
  a->add_option("-o", ao->output, "the aligned bass to write; with --apply the session's folder");
  runs.emplace_back(a, [ao] { return ao->bass.empty() ? alignSession(*ao) : align(*ao); });

  addDuckCommand(app, runs);
}

void addCheckCommand(CLI::App& app, Runs& runs) {
  auto* c = app.add_subcommand("check", "the Ledger's findings for a session");
  auto co = std::make_shared<CheckOptions>();
  c->add_option("SESSION", co->session, "the session's folder")->required();
  c->add_flag("--no-fixes", co->noFixes, "do not try fixes: quicker");
  c->add_option("--section", co->section,
                "compare that section of the song with the references (as the session says)");
  runs.emplace_back(c, [co] { return check(*co); });
}

void addNewCommand(CLI::App& app, Runs& runs) {
  auto* n = app.add_subcommand("new", "a session from files, with a default pattern");
  auto no = std::make_shared<NewOptions>();
  n->add_option("--kick", no->kick, "the kick");
  n->add_option("--bass", no->bass, "the bass or 808");
  n->add_option("--backing", no->backing, "the rest of the track, at the tempo");
  n->add_option("--part", no->parts,
                "NAME=FILE: another part, such as Clap=clap.wav; may be given more than once")
      ->take_all();
  n->add_option("--preset", no->presets,
                "WHERE=PRESET: kick, bass, part, sum or layer (kick/2) = file or preset name; repeatable")
      ->take_all();
  n->add_option("--key", no->key, "the track's key, such as \"A minor\"")->required();
  n->add_option("--tempo", no->tempo, "the tempo in BPM")->required();
  n->add_option("--bars", no->bars,
                "length in bars: a loop 1 to 64 (2), a song up to ten minutes (as its backing)");
  n->add_flag("--song", no->song, "a song: starts at rest, ends with its tails, does not loop");
  n->add_option("--section", no->sections,
                "NAME=A:B: a section from bar A up to bar B, such as Drop=17:33; repeatable")
      ->take_all();
  n->add_option("-o", no->output, "the session's folder to write, X.heft")->required();
  runs.emplace_back(n, [no] { return makeNew(*no); });
}

void addFixCommand(CLI::App& app, Runs& runs) {
  auto* m = app.add_subcommand("fix", "apply the Ledger's fixes, in working order")->alias("mend");
  auto mo = std::make_shared<FixOptions>();
  m->add_option("SESSION", mo->session, "the session's folder")->required();
  m->add_flag("--list", mo->list, "list the fixes with the figures before and after, and write nothing");
  m->add_option("--only", mo->only, "ids of lines to fix (all); also agrees to fixes that ask");
  m->add_option("--without", mo->without, "ids of lines to leave as they are");
  m->add_option("-o", mo->output, "the session to write; nothing is written without it");
  runs.emplace_back(m, [mo] { return fix(*mo); });
}

void addSessionCommands(CLI::App& app, Runs& runs) {
  addCheckCommand(app, runs);
  addNewCommand(app, runs);
  addFixCommand(app, runs);
  auto* r = app.add_subcommand("render", "export a session");
  auto ro = std::make_shared<RenderOptions>();
  r->add_option("SESSION", ro->session, "the session's folder")->required();
  r->add_option("-o", ro->folder, "the folder to write to")->required();
  r->add_option("--from", ro->from, "first bar: stems and sum only from there");
  r->add_option("--to", ro->to, "bar where they end");
  r->add_option("--versions", ro->versions,
                "all: one-shots of every version of a part (default: the session's export list)");
  r->add_option("--preset", ro->presets, "WHERE=PRESET, as for new; the session is not changed")->take_all();
  runs.emplace_back(r, [ro] { return renderTo(*ro); });

  auto* p = app.add_subcommand("presets", "list presets");
  runs.emplace_back(p, [] { return presets(); });

  auto* d = app.add_subcommand("demo", "write the demo session and its sounds");
  auto folder = std::make_shared<std::string>();
  d->add_option("DIR", *folder, "the folder to write to")->required();
  runs.emplace_back(d, [folder] { return writeDemo(*folder); });
}

}  // namespace

Result<Asked> parseArguments(int argc, char** argv) {
  CLI::App app("Heft without the window: measure, tune, align, duck, compare, check and render low ends.",
               "heft-cli");
  Asked out;
  const auto common = std::make_shared<Common>();
  app.add_flag("--json", common->json, "print one JSON document");
  app.add_option("--middle-c", common->middleC, "how middle C is written: C3, C4 (default) or C5");
  app.require_subcommand(1);
  app.set_version_flag("--version", "Heft " HEFT_VERSION ", GPL-3.0-or-later, without any warranty");
  app.fallthrough();
  Runs runs;
  addSoundCommands(app, common, runs);
  addPairCommands(app, runs);
  addSessionCommands(app, runs);
  const auto known =
      app.get_subcommands([&](const CLI::App* command) { return argc > 1 && command->get_name() == argv[1]; });
  if (argc > 1 && argv[1][0] != '-' && known.empty())
    return badUsage("\"" + std::string(argv[1]).substr(0, 64) + "\" is not a command; see heft-cli --help");
  try {
    app.parse(argc, argv);
  } catch (const CLI::CallForHelp&) {
    const auto chosen = app.get_subcommands();
    out.help = chosen.empty() ? app.help() : chosen.front()->help();
    return out;
  } catch (const CLI::CallForVersion& version) {
    out.help = std::string(version.what()) + "\n";
    return out;
  } catch (const CLI::ParseError& error) {
    return badUsage(std::string(error.what()) + "; see heft-cli --help");
  }
  for (const auto& [command, work] : runs)
    if (command->parsed()) out.command = work;
  out.common = *common;
  return out;
}

}  // namespace heft::cli
