-- Sidereal time from a Julian date, as the older shows know it.
local M = { _VERSION = "1.0.3" }

function M.greenwich(julian_date)
    return (18.697374558 + 24.06570982441908 * (julian_date - 2451545.0)) % 24
end

return M
