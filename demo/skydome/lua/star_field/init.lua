--- Places the catalogue stars on the dome.
-- @module star_field
local about = require("star_field.about")
local sidereal = require("sidereal")
local has_sound, dome_sound = pcall(require, "dome_sound")

local M = { _VERSION = about.version }

local latitude, longitude = math.rad(47.31), 8.54 -- Varn Hill

-- Made-up stars: name, right ascension in hours, declination in degrees, magnitude.
local stars = {
    { "Lantern", 2.53, 89.26, 2.0 },
    { "Old Ferryman", 5.92, 7.41, 0.4 },
    { "Heron's Eye", 14.26, 19.18, -0.1 },
    { "Weaver", 18.62, 38.78, 0.0 },
    { "Far Harbour", 6.75, -16.72, -1.4 },
    { "Miller", 10.14, 11.97, 1.4 },
    { "Reed", 19.85, 8.87, 0.8 },
    { "Ember", 16.49, -26.43, 1.0 },
    { "Thimble", 3.79, 24.11, 2.9 },
    { "Quiet One", 22.96, -29.62, 1.2 },
}

-- Height above the horizon and direction from north over east, both in degrees.
local function on_dome(star, julian_date)
    local hour_angle = math.rad((sidereal.at(julian_date, longitude) - star[2]) * 15)
    local declination = math.rad(star[3])
    local height = math.asin(
        math.sin(latitude) * math.sin(declination) + math.cos(latitude) * math.cos(declination) * math.cos(hour_angle)
    )
    local direction = math.atan(
        -math.cos(declination) * math.sin(hour_angle),
        math.sin(declination) * math.cos(latitude) - math.cos(declination) * math.sin(latitude) * math.cos(hour_angle)
    )
    return math.deg(height), math.deg(direction) % 360
end

--- Places the stars brighter than a magnitude.
-- @param magnitude number faintest magnitude shown
-- @param julian_date number moment shown, in days; left out: noon of 1 January 2000
-- @return table list of stars with name, height and direction in degrees
function M.place(magnitude, julian_date)
    local placed = {}
    for _, star in ipairs(stars) do
        local height, direction = on_dome(star, julian_date or 2451545.0)
        if star[4] <= magnitude and height > 0 then
            placed[#placed + 1] = { name = star[1], height = height, direction = direction, magnitude = star[4] }
            if has_sound then
                dome_sound.chime(height)
            end
        end
    end
    return placed
end

--- Name of the brightest star above the horizon.
-- @param julian_date number moment shown, in days
-- @return string the name, or nothing when none is up
function M.brightest(julian_date)
    local best
    for _, star in ipairs(M.place(6, julian_date)) do
        if not best or star.magnitude < best.magnitude then
            best = star
        end
    end
    return best and best.name
end

return M
