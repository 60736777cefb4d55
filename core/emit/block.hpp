// Managed blocks: the part of a file that is Envar's, in a file that is the user's.
//
// A block stands between two comment lines. The first names it and holds the SHA-256 of what is between them, so
// that a block which somebody edited is told from one that is merely out of date. What lies around a block is never
// touched.
//
//     # Envar's block session, 3f2a…: rewritten at will, what lies around it is yours
//     …
//     # Envar's block session ends here
#pragma once

#include <optional>
#include <string>
#include <string_view>

#include "core/model/card.hpp"
#include "core/text/failure.hpp"

namespace envar::emit {

enum class BlockState { absent, untouched, edited };

struct Block {
    BlockState state = BlockState::absent;
    std::string body;       // between the marks
    std::size_t begin = 0;  // of the first mark's line, in the file
    std::size_t end = 0;    // behind the last mark's line
};

/// Looks a block up. Fails with `answer_is_no` when a mark stands without its other, or twice.
[[nodiscard]] text::Result<Block> find_block(std::string_view content, std::string_view name);

/// The content with the block's body replaced, or with the block added at the end. `body` ends with a line end.
[[nodiscard]] text::Result<std::string> with_block(const std::string& content, std::string_view name,
                                                   std::string_view body, const model::CardDialect& dialect);

/// The content without the block and the blank line before it that came with it.
[[nodiscard]] text::Result<std::string> without_block(const std::string& content, std::string_view name);

}  // namespace envar::emit
