--- Lines between the stars, and their stories.
-- @module constellations
local about = require("constellations.about")
local star_field = require("star_field")
local has_legends, legends = pcall(require, "legends")

local M = { _VERSION = about.version }

local figures = {
    { name = "the Crossing", stars = { "Old Ferryman", "Far Harbour" } },
    { name = "the Loom", stars = { "Weaver", "Reed" } },
    { name = "the Mill", stars = { "Miller", "Heron's Eye" } },
}

--- Constellations of which every star is up.
-- @param julian_date number moment shown, in days
-- @return table list of names
function M.visible(julian_date)
    local up = {}
    for _, star in ipairs(star_field.place(6, julian_date)) do
        up[star.name] = true
    end
    local names = {}
    for _, figure in ipairs(figures) do
        local whole = true
        for _, star in ipairs(figure.stars) do
            whole = whole and up[star]
        end
        if whole then
            names[#names + 1] = has_legends and legends.caption(figure.name) or figure.name
        end
    end
    return names
end

return M
