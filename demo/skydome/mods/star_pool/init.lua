--- A pool in which the stars can be seen.
-- @module star_pool
local about = dofile(minetest.get_modpath("star_pool") .. "/about.lua")

star_pool = { _version = about.version }

--- Places the stars of a magnitude.
-- @param magnitude number faintest magnitude shown
-- @return number of stars placed
function star_pool.place(magnitude)
    return math.floor(10 ^ (0.5 * magnitude))
end

minetest.register_node("star_pool:water", {
    description = "Star pool",
    tiles = { "[combine:16x16^[noalpha^[colorize:#101840:255" },
    light_source = 3,
    groups = { oddly_breakable_by_hand = 3 },
})
