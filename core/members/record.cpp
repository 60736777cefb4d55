#include "core/members/record.hpp"

#include "core/files/read.hpp"
#include "core/model/document.hpp"

namespace envar::members {
namespace {

constexpr std::size_t largest_record = std::size_t{4} << 20U;

}  // namespace

std::string record_text(const State& state) {
    const model::Manifest promised = promise_of(state);
    return "# What " + promised.name.value + " promised when it was last recorded, by `envar compare --record`.\n" +
           model::document_text(model::manifest_fields(), &promised);
}

std::optional<Record> read_record(const std::filesystem::path& home, const std::string& shown,
                                  const model::SchemeOf& scheme_of) {
    auto content = files::read_file(home / record_name, largest_record);
    if (!content) return std::nullopt;
    Record record;
    record.source = text::Source(shown, std::move(*content));
    const model::Document document = model::parse_document(record.source);
    std::vector<text::Finding> findings;
    record.manifest = model::read_manifest(document, findings, scheme_of);
    record.valid = document.valid && record.manifest.version.has_value();
    return record;
}

std::vector<Difference> since_record(const Record& record, const State& now) {
    const Scan nothing;
    return differences({&record.manifest, &nothing, record.source.file()}, now);
}

}  // namespace envar::members
