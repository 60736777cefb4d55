#!/usr/bin/env lua5.4
local unit, sizes = "mm", { 1, 2, [[end]] }
sizes.more = 4
counter = 0
--- Says it.
-- @param what the thing
local function label(what)
    return what .. " in " .. unit .. #sizes .. sizes.more
end
local function odd(n) if n == 0 then return false end return even(n - 1) end
function even(n) if n == 0 then return true end return odd(n - 1) end
local tick = function() counter = counter + 1 return counter end
function all() return label("dome"), tostring(even(10)), tick(), tick() end
