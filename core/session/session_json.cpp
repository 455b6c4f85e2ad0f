// The session's file: docs/format.md. It holds the values listed in fields.h; reading checks every one of
// them and keeps unknown keys.

#include <algorithm>
#include <set>

#include "core/session/field_json.h"
#include "core/session/older_json.h"

namespace heft {
namespace {

// Each kind's defaults.
Json usualProcessors() {
  Json out = Json::object();
  for (size_t kind = 0; kind < kProcessorKinds; ++kind) {
    const char* key = processorKey(kind);
    out[key] = jsonOf(freshProcessor(kind))[key];
  }
  return out;
}

}  // namespace

std::string sessionToJson(const Session& s) {
  Json out = Json::object();
  out["heft_session"] = kSessionVersion;
  out.update(jsonOf(s));
  return out.dump(2, ' ', false, Json::error_handler_t::replace) + "\n";
}

Result<Session> sessionFromJson(const std::string& text, const std::string& fileName) {
  if (text.size() > kMostText) return unreadable(fileName, "is larger than a session can be");
  if (isTooDeep(text)) return unreadable(fileName, "is nested deeper than a session can be");
  Json json = Json::parse(text, nullptr, false);
  if (json.is_discarded() && text.find("heft_session") != std::string::npos)
    return unreadable(fileName, brokenJson(text));
  if (json.is_discarded() || !json.is_object() || !json.contains("heft_session"))
    return unreadable(fileName, "is not a Heft session; choose a folder that Heft saved");
  std::string fault;
  int version = 0;
  JsonReader(json, "", fault).whole("heft_session", version, 1, 1'000'000);
  if (!fault.empty()) return unreadable(fileName, fault);
  if (version > kSessionVersion) return unreadable(fileName, "was saved by a newer Heft; open it there");
  if (version < kSessionVersion) json = fromOlderVersion(std::move(json), version, usualProcessors());
  json.erase("heft_session");
  Session s;
  JsonReader whole(json, "", fault);
  readInto(s, whole);
  if (!fault.empty()) return unreadable(fileName, fault);
  return s;
}

std::string referenceToJson(const Reference& reference) {
  return jsonOf(reference).dump(-1, ' ', false, Json::error_handler_t::replace);
}

Result<Reference> referenceFromJson(const std::string& text, const std::string& fileName) {
  if (text.size() > kMostText || isTooDeep(text)) return unreadable(fileName, "is no reference of Heft's");
  const Json json = Json::parse(text, nullptr, false);
  if (!json.is_object()) return unreadable(fileName, "is no reference of Heft's");
  std::string fault;
  Reference out;
  JsonReader whole(json, "", fault);
  readInto(out, whole);
  if (!fault.empty()) return unreadable(fileName, fault);
  return out;
}

}  // namespace heft
