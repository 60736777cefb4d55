--- Sidereal time from a Julian date.
-- @module sidereal
local about = require("sidereal.about")

local M = { _VERSION = about.version }

local j2000 = 2451545.0 -- noon, 1 January 2000

--- Mean sidereal time at Greenwich.
-- @param julian_date number days since noon UTC, 1 January 4713 BC
-- @return number hours, from 0 up to 24
function M.greenwich(julian_date)
    return (18.697374558 + 24.06570982441908 * (julian_date - j2000)) % 24
end

--- Mean sidereal time at a place.
-- @param julian_date number days
-- @param longitude number degrees, east is positive
-- @return number hours, from 0 up to 24
function M.at(julian_date, longitude)
    return (M.greenwich(julian_date) + longitude / 15) % 24
end

return M
