#include "core/series/json_check.h"

#include <fmt/core.h>

#include <valijson/adapters/nlohmann_json_adapter.hpp>
#include <valijson/schema.hpp>
#include <valijson/schema_parser.hpp>
#include <valijson/validation_results.hpp>
#include <valijson/validator.hpp>

#include "core/files/safe_write.h"

namespace gq::series {
namespace {

constexpr const char* kWayOut = "Restore it from a copy; the pictures themselves are not affected.";

}  // namespace

Result<nlohmann::json> readChecked(const std::filesystem::path& file, const char* schemaText) {
    const auto text = files::readText(file);
    if (!text) return tl::unexpected(text.error());
    const auto json = nlohmann::json::parse(*text, nullptr, false);
    if (json.is_discarded())
        return fail(Error::Kind::Unreadable, "this file is damaged (it is not JSON)", file.string(),
                    kWayOut);
    const auto schemaJson = nlohmann::json::parse(schemaText);
    valijson::Schema schema;
    valijson::SchemaParser parser;
    parser.populateSchema(valijson::adapters::NlohmannJsonAdapter(schemaJson), schema);
    valijson::Validator validator;
    valijson::ValidationResults results;
    if (!validator.validate(schema, valijson::adapters::NlohmannJsonAdapter(json), &results)) {
        valijson::ValidationResults::Error first;
        std::string where;
        if (results.popError(first))
            for (const auto& step : first.context) where += step;
        return fail(Error::Kind::Unreadable, fmt::format("this file is damaged at {}", where),
                    file.string(), kWayOut);
    }
    return json;
}

Status checkVersion(const nlohmann::json& json, int known, const std::filesystem::path& file) {
    const int version = json.value("version", 1);
    if (version <= known) return {};
    return fail(
        Error::Kind::NewerVersion,
        fmt::format("it was written by a newer Gentle Quill (format {}, this one reads up to {})",
                    version, known),
        file.string(), "Open it with that version, or update this one.");
}

}  // namespace gq::series
