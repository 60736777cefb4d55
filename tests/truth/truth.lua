-- What Lua itself has after loading a file as a module: the functions of the table that it returns and that the file
-- defines, each with its line and its parameters, without `self`, which a call with a colon gives.
--
--   lua truth.lua FILE      prints: NAME <tab> LINE <tab> PARAMETERS
local file = arg[1]
local chunk = assert(loadfile(file))
local ok, module = pcall(chunk, "truth", file)
if not ok or type(module) ~= "table" then os.exit(1) end
for name, value in pairs(module) do
    if type(name) == "string" and type(value) == "function" then
        local info = debug.getinfo(value, "Su")
        if info.source == "@" .. file then
            local parameters = {}
            for i = 1, info.nparams do
                local parameter = debug.getlocal(value, i)
                if parameter ~= "self" then parameters[#parameters + 1] = parameter end
            end
            if info.isvararg then parameters[#parameters + 1] = "..." end
            print(name .. "\t" .. info.linedefined .. "\t" .. table.concat(parameters, " "))
        end
    end
end
