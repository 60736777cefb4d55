// Reads catalogues. The file is cut into as many parts as there are threads; each thread reads its part, line by
// line, into a table of its own, and the tables are joined in the order of the parts.
#include <fmt/format.h>
#include <simdjson.h>

#include <algorithm>
#include <array>
#include <cstring>

#include "core/files/read.hpp"
#include "core/model/catalogue.hpp"
#include "core/text/hash.hpp"
#include "core/text/side_by_side.hpp"

namespace envar::model {
namespace {

namespace json = simdjson::ondemand;

constexpr std::size_t block_size = std::size_t{256} << 10U;
constexpr std::size_t smallest_part = std::size_t{512} << 10U;  // worth a thread
constexpr std::size_t head_start = std::size_t{192} << 10U;
constexpr std::size_t longest_line = std::size_t{16} << 20U;
constexpr std::size_t most_told = 20;

/// A finding about a line of a part; the line counts from the part's first.
struct Remark {
    std::string_view code;
    std::size_t line = 0;
    std::string message;
    std::string hint;
};

/// What was said of one kind, and how much more there was to say.
struct Remarks {
    std::vector<Remark> told;
    std::array<std::size_t, 3> count{};

    static std::size_t kind(std::string_view code) { return code == "EV914" ? 0 : code == "EV917" ? 1 : 2; }
    void add(Remark remark) {
        if (++count.at(kind(remark.code)) <= most_told) told.push_back(std::move(remark));
    }
};

/// As `==`, and quicker: how much is to be compared is known beforehand.
template <std::size_t Size>
bool is(std::string_view key, const char (&name)[Size]) {
    return key.size() == Size - 1 && std::memcmp(key.data(), name, Size - 1) == 0;
}

/// Why a line was given up.
struct Refusal {
    std::string message;
    std::string hint;
};

/// One thread's work.
class PartReader {
  public:
    PartReader(const files::BigFile& file, const SchemeOf& scheme_of) : file_(file), scheme_of_(scheme_of) {}

    /// Reads the lines that begin in [begin, end); makes room for those up to `room_to`.
    text::Result<void> read(std::size_t begin, std::size_t end, std::size_t room_to) {
        std::string buffer;
        std::size_t size = block_size;
        bool first = true;
        for (std::size_t at = begin == 0 ? 0 : begin - 1; at < end || first;) {
            buffer.resize(size + simdjson::SIMDJSON_PADDING);
            const auto got = file_.read(buffer.data(), size, at);
            if (!got) return tl::unexpected(got.error());
            const std::string_view block(buffer.data(), *got);
            std::size_t from = 0;
            if (first && begin > 0) {  // what began before this part is not its line
                from = block.find('\n');
                if (from == std::string_view::npos && *got == size) {
                    at += *got;
                    continue;
                }
                from = std::min(from, block.size() - 1) + 1;
            } else if (first && block.starts_with("\xEF\xBB\xBF")) {
                from = 3;
            }
            const std::size_t rest = end - std::min(at, end);
            const std::size_t taken = lines_of(block, from, rest, *got < size);
            if (*got < size) return {};
            if (taken == from && from < rest && size < longest_line) {
                size *= 2;  // a line longer than the block
                continue;
            }
            at += taken == from && from < rest ? skip_long_line(block) : taken;
            if (first && at < room_to) make_room(taken - from, room_to - at);
            first = false;
        }
        return {};
    }

    ModuleTable table;
    Remarks remarks;
    std::size_t lines = 0;

  private:
    /// Takes the whole lines of a block that begin before `end`; gives where the first line that was not taken
    /// begins.
    std::size_t lines_of(std::string_view block, std::size_t from, std::size_t end, bool last) {
        while (from < block.size() && from < end) {
            std::size_t stop = block.find('\n', from);
            if (stop == std::string_view::npos) {
                if (!last) return from;
                stop = block.size();
            }
            line(block.substr(from, stop - from));
            from = stop + 1;
        }
        return from;
    }

    /// For what is left, when it is like what was read.
    void make_room(std::size_t read, std::size_t left) {
        const auto as_many = [&](std::size_t count) {
            return static_cast<std::size_t>(1.05 * static_cast<double>(count) * static_cast<double>(left) /
                                            static_cast<double>(std::max<std::size_t>(read, 1)));
        };
        table.reserve(as_many(table.rows.size()), as_many(table.needs.size()));
    }

    /// Goes over a block that is all inside one line.
    std::size_t skip_long_line(std::string_view block) {
        if (!skipping_) {
            ++lines;
            remark("EV914", fmt::format("the line is longer than {} MiB", longest_line >> 20U), "it was passed over");
        }
        skipping_ = true;
        return block.size();
    }

    void remark(std::string_view code, std::string message, std::string hint) {
        remarks.add({code, lines, std::move(message), std::move(hint)});
    }

    void line(std::string_view text) {
        if (skipping_) {
            skipping_ = false;
            return;
        }
        ++lines;
        if (text.find_first_not_of(" \t\r") == std::string_view::npos) return;
        table.needs.resize(kept_needs_);
        table.offers.resize(kept_offers_);
        table.bars.resize(kept_bars_);
        row_ = Row{};
        refusal_ = {};
        host_ = version_ = {};
        if (!read_object(text)) {
            remark(
                "EV914", refusal_.message.empty() ? "the line is no whole JSON object" : std::move(refusal_.message),
                refusal_.hint.empty() ? "one module version a line; it was passed over" : std::move(refusal_.hint));
            return;
        }
        row_.fingerprint = text::hash_of(text);
        row_.line = static_cast<std::uint32_t>(lines);
        row_.first_need = kept_needs_;
        row_.needs = static_cast<std::uint32_t>(table.needs.size()) - kept_needs_;
        row_.first_offer = kept_offers_;
        row_.offers = static_cast<std::uint32_t>(table.offers.size()) - kept_offers_;
        row_.first_bar = kept_bars_;
        row_.bars = static_cast<std::uint32_t>(table.bars.size()) - kept_bars_;
        kept_needs_ += row_.needs;
        kept_offers_ += row_.offers;
        kept_bars_ += row_.bars;
        table.rows.push_back(row_);
    }

    bool refuse(std::string message, std::string hint = "it was passed over") {
        if (refusal_.message.empty()) refusal_ = {std::move(message), std::move(hint)};
        return false;
    }

    /// The value as text; refuses anything else.
    bool text_of(json::value& value, std::string_view key, std::string_view& into) {
        if (value.get_string().get(into) == simdjson::SUCCESS) return true;
        return refuse(fmt::format("`{}` must be text", key));
    }

    bool flag_of(json::value& value, std::string_view key, bool& into) {
        if (value.get_bool().get(into) == simdjson::SUCCESS) return true;
        return refuse(fmt::format("`{}` must be true or false", key));
    }

    /// Calls `each(key, value)` for all that an object holds. False when it is none, or stops being one, or `each`
    /// says so.
    template <class Each>
    static bool for_fields(json::object& object, Each each) {
        for (auto field : object) {
            std::string_view key;
            json::value value;
            if (field.unescaped_key().get(key) != simdjson::SUCCESS || field.value().get(value) != simdjson::SUCCESS)
                return false;
            if (!each(key, value)) return false;
        }
        return true;
    }

    template <class Each>
    bool for_elements(json::value& value, std::string_view key, Each each) {
        json::array list;
        if (value.get_array().get(list) != simdjson::SUCCESS) return refuse(fmt::format("`{}` must be a list", key));
        for (auto element : list) {
            json::value one;
            if (element.get(one) != simdjson::SUCCESS || !each(one)) return false;
        }
        return true;
    }

    template <class Each>
    bool for_objects(json::value& value, std::string_view key, Each each) {
        return for_elements(value, key, [&](json::value& one) {
            json::object object;
            if (one.get_object().get(object) != simdjson::SUCCESS)
                return refuse(fmt::format("`{}` must be a list of objects", key));
            return each(object);
        });
    }

    bool unknown(std::string_view key, std::string_view where) {
        remark("EV917", fmt::format("`{}` is no key of {}", key, where), "it was passed over");
        return true;
    }

    bool read_object(std::string_view line_text) {
        json::document document;
        json::object object;
        if (parser_.iterate(line_text.data(), line_text.size(), line_text.size() + simdjson::SIMDJSON_PADDING)
                .get(document) != simdjson::SUCCESS)
            return false;
        if (document.get_object().get(object) != simdjson::SUCCESS) return false;
        if (!for_fields(object, [&](std::string_view key, json::value& value) { return field(key, value); }))
            return false;
        if (document.current_location().error() != simdjson::OUT_OF_BOUNDS) return false;  // there is more
        return finish();
    }

    bool field(std::string_view key, json::value& value) {
        std::string_view word;
        if (is(key, "module")) {
            if (!text_of(value, key, word)) return false;
            if (!word.empty() && word != last_module_) {  // most catalogues tell a module's versions in a row
                last_id_ = table.names.add(word);
                last_module_ = table.names.text(last_id_);
            }
            if (!word.empty()) row_.module = last_id_;
            return true;
        }
        if (is(key, "version")) return text_of(value, key, version_);
        if (is(key, "host")) return text_of(value, key, host_);
        if (is(key, "withdrawn")) return flag_of(value, key, row_.withdrawn);
        if (is(key, "dependencies")) {
            std::uint32_t written = 0;
            return for_objects(value, key, [&](json::object& one) { return dependency(one, written++); });
        }
        if (is(key, "provides")) return for_objects(value, key, [&](json::object& one) { return offer(one); });
        if (is(key, "conflicts")) {
            std::uint32_t written = 0;
            return for_objects(value, key, [&](json::object& one) { return bar(one, written++); });
        }
        if (is(key, "archive")) return text_of(value, key, word);
        if (is(key, "sha256")) {
            if (!text_of(value, key, word)) return false;
            const auto digest = digest_of(word);
            if (!digest) return refuse("`sha256` must be 64 hexadecimal digits in lower case");
            row_.digest = static_cast<Id>(table.digests.size());
            table.digests.push_back(*digest);
            return true;
        }
        return unknown(key, "a catalogue line");
    }

    bool dependency(json::object& object, std::uint32_t written) {
        Need need;
        need.written = written;
        std::string_view module, range = "any", word;
        bool is_system = false;
        const bool whole = for_fields(object, [&](std::string_view key, json::value& value) {
            if (is(key, "module")) return text_of(value, key, module);
            if (is(key, "versions")) return text_of(value, key, range);
            if (is(key, "optional")) return flag_of(value, key, need.optional);
            if (is(key, "when")) return condition(value, need);
            if (is(key, "visibility")) {
                if (!text_of(value, key, word)) return false;
                need.is_public = word == "public";
                return need.is_public || word == "private" ||
                       refuse(fmt::format("`visibility` is public or private, not `{}`", word));
            }
            if (is(key, "stage")) {
                if (!text_of(value, key, word)) return false;
                need.stage = stage_of(word);
                return stage_name(need.stage) == word ||
                       refuse(fmt::format("`stage` is load, build or test, not `{}`", word));
            }
            if (is(key, "origin")) {
                if (!text_of(value, key, word)) return false;
                is_system = word == "system";
                return true;
            }
            if (is(key, "reason")) return text_of(value, key, word);
            return unknown(key, "a dependency");
        });
        if (!whole) return false;
        if (module.empty()) return refuse("a dependency names no `module`");
        if (!requirement(range, module, need.requirement)) return false;
        need.module = table.names.add(module);
        if (!is_system) table.needs.push_back(need);
        return true;
    }

    bool requirement(std::string_view range, std::string_view module, Id& into) {
        const auto found = table.add_requirement(range);
        if (!found)
            return refuse(fmt::format("`{}` is no requirement on {}: {}", range, module, found.error().message),
                          fmt::format("{}; the line was passed over", found.error().hint));
        into = *found;
        return true;
    }

    bool condition(json::value& value, Need& need) {
        Condition found;
        json::object object;
        if (value.get_object().get(object) != simdjson::SUCCESS) return refuse("`when` must be an object");
        const bool whole = for_fields(object, [&](std::string_view key, json::value& list) {
            auto* words = is(key, "platform") ? &found.platforms : is(key, "target") ? &found.targets : nullptr;
            if (words == nullptr) return unknown(key, "`when`");
            return for_elements(list, key, [&](json::value& one) {
                std::string_view word;
                if (!text_of(one, key, word)) return false;
                if (!word.empty()) words->push_back({std::string(word), {}});
                return true;
            });
        });
        need.condition = table.add_condition(found);
        return whole;
    }

    bool offer(json::object& object) {
        std::string_view module, version;
        const bool whole = for_fields(object, [&](std::string_view key, json::value& value) {
            if (is(key, "module")) return text_of(value, key, module);
            if (is(key, "version")) return text_of(value, key, version);
            return unknown(key, "`provides`");
        });
        if (!whole) return false;
        if (module.empty()) return refuse("what is provided names no `module`");
        Offer one{table.names.add(module), no_id};
        if (!version.empty()) one.version = table.add_version(version, versions::Scheme::semantic);
        if (!version.empty() && one.version == no_id)
            return refuse(fmt::format("`{}` is no version of {}, which is provided", version, module));
        table.offers.push_back(one);
        return true;
    }

    bool bar(json::object& object, std::uint32_t written) {
        Bar one;
        one.written = written;
        std::string_view module, range = "any", word;
        const bool whole = for_fields(object, [&](std::string_view key, json::value& value) {
            if (is(key, "module")) return text_of(value, key, module);
            if (is(key, "versions")) return text_of(value, key, range);
            if (is(key, "reason")) return text_of(value, key, word);
            return unknown(key, "`conflicts`");
        });
        if (!whole) return false;
        if (module.empty()) return refuse("a conflict names no `module`");
        if (!requirement(range, module, one.requirement)) return false;
        one.module = table.names.add(module);
        table.bars.push_back(one);
        return true;
    }

    bool finish() {
        if (row_.module == no_id) return refuse("the line names no `module`");
        const std::string_view name = table.names.text(row_.module);
        if (version_.data() == nullptr) return refuse(fmt::format("the line tells no `version` of {}", name));
        if (host_ != last_host_) {
            last_host_ = host_;
            host_id_ = table.hosts.add(host_);
            scheme_ = scheme_of_ ? scheme_of_(host_) : versions::Scheme::semantic;
        }
        row_.host = host_id_;
        row_.version = table.add_version(version_, scheme_);
        if (row_.version != no_id) return true;
        const auto mended = versions::mended_version(version_);
        return refuse(fmt::format("`{}` is no version of {}", version_, name),
                      fmt::format("write {}; it was passed over",
                                  mended ? "`" + *mended + "`" : std::string(versions::scheme_form(scheme_))));
    }

    const files::BigFile& file_;
    const SchemeOf& scheme_of_;
    json::parser parser_;
    Row row_;
    std::string_view host_, version_;
    std::string_view last_module_;
    Id last_id_ = no_id;
    std::optional<std::string> last_host_;
    Id host_id_ = no_id;
    versions::Scheme scheme_ = versions::Scheme::semantic;
    Refusal refusal_;
    std::uint32_t kept_needs_ = 0, kept_offers_ = 0, kept_bars_ = 0;
    bool skipping_ = false;
};

/// Of each kind the first ones, with their places in the whole file, and a word on the rest.
std::vector<text::Finding> findings_of(const std::string& shown, const std::vector<PartReader>& parts) {
    std::vector<text::Finding> findings;
    Remarks whole;
    std::size_t line = 0;
    const auto finding = [&](const Remark& remark) {
        text::Finding one;
        one.code = remark.code;
        one.severity = text::Severity::warning;
        one.file = shown;
        one.position = {remark.line, 1};
        one.message = remark.message;
        one.hint = remark.hint;
        return one;
    };
    for (const PartReader& part : parts) {
        std::array<std::size_t, 3> told{};
        for (const Remark& remark : part.remarks.told) {
            ++told.at(Remarks::kind(remark.code));
            Remark moved = remark;
            moved.line += line;
            whole.add(std::move(moved));
        }
        for (std::size_t kind = 0; kind < told.size(); ++kind)
            whole.count.at(kind) += part.remarks.count.at(kind) - told.at(kind);
        line += part.lines;
    }
    for (const Remark& remark : whole.told) findings.push_back(finding(remark));
    for (std::size_t kind = 0; kind < whole.count.size(); ++kind)
        if (whole.count.at(kind) > most_told)
            findings.push_back(finding(
                {kind == 0 ? "EV914" : "EV917", line,
                 fmt::format("{} more of this kind were found, up to this line", whole.count.at(kind) - most_told),
                 ""}));
    return findings;
}

}  // namespace

text::Result<std::vector<text::Finding>> read_catalogue(const std::filesystem::path& file, const std::string& shown,
                                                        const SchemeOf& scheme_of, unsigned jobs,
                                                        ModuleTable& table) {
    const auto opened = files::BigFile::open(file);
    if (!opened) return tl::unexpected(opened.error());
    const std::size_t count = std::clamp<std::size_t>(opened->size() / smallest_part, 1, std::max(jobs, 1U));
    std::vector<PartReader> parts;
    parts.reserve(count);
    for (std::size_t i = 0; i < count; ++i) parts.emplace_back(*opened, scheme_of);
    std::vector<text::Result<void>> done(count);
    const auto begin_of = [&](std::size_t part) {
        // Threads take a while to begin: the one that is there reads that much more.
        const std::size_t ahead = count == 1 ? 0 : std::min(head_start, opened->size() / count / 4);
        return part == 0 ? 0 : ahead + (opened->size() - ahead) * part / count;
    };
    text::side_by_side(count, count, [&](std::size_t i) {
        // The first part's table is where those of the others go.
        done[i] = parts[i].read(begin_of(i), begin_of(i + 1), i == 0 ? opened->size() : begin_of(i + 1));
    });
    for (const auto& one : done)
        if (!one) return tl::unexpected(one.error());
    auto findings = findings_of(shown, parts);
    std::size_t lines = 0;
    for (PartReader& part : parts) {
        for (Row& row : part.table.rows) row.line += static_cast<std::uint32_t>(lines);
        lines += part.lines;
    }
    ModuleTable whole = std::move(parts.front().table);
    for (std::size_t i = 1; i < count; ++i) {
        whole.add(std::move(parts[i].table));
    }
    whole.origins = {shown};
    if (table.rows.empty() && table.origins.empty()) {
        table = std::move(whole);
    } else {
        table.add(std::move(whole));
    }
    return findings;
}

}  // namespace envar::model
