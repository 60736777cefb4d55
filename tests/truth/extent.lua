-- Where each function that a file's module returns begins and ends, as Lua itself has it.
--
--   lua extent.lua FILE      prints: NAME <tab> FIRST LINE <tab> LAST LINE
local file = arg[1]
local ok, module = pcall(assert(loadfile(file)), "truth", file)
if not ok or type(module) ~= "table" then os.exit(1) end
for name, value in pairs(module) do
    if type(name) == "string" and type(value) == "function" then
        local info = debug.getinfo(value, "S")
        if info.source == "@" .. file then print(name .. "\t" .. info.linedefined .. "\t" .. info.lastlinedefined) end
    end
end
