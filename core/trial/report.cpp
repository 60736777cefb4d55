#include "core/trial/report.hpp"

namespace envar::trial {

std::vector<Record> read_report(std::string_view text) {
    constexpr std::size_t most = 100000;
    std::vector<Record> records;
    while (records.size() < most) {
        const std::size_t end = text.find("\x1e\n");
        if (end == std::string_view::npos) break;
        std::string_view line = text.substr(0, end);
        Record record;
        for (;;) {
            const std::size_t next = line.find('\x1f');
            record.emplace_back(line.substr(0, next));
            if (next == std::string_view::npos) break;
            line.remove_prefix(next + 1);
        }
        records.push_back(std::move(record));
        text.remove_prefix(end + 2);
    }
    return records;
}

}  // namespace envar::trial
