--- Captions for the dome.
-- @module legends
local about = require("legends.about")

local M = { _VERSION = about.version }

--- A name as it is written on the dome.
-- @param name string
-- @return string the name with a capital first letter
function M.caption(name)
    return (name:gsub("^%l", string.upper))
end

return M
