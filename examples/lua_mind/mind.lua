-- A hornet whose mind is a script: it asks its body for actions and waits for what becomes of them.
--   lua5.4 mind.lua hornet.pack
local mobrin = require "mobrin_lua"

local hornet = mobrin.load(arg[1] or "hornet.pack")
local body = hornet:new()

local function say(who, words) print(string.format("%5.2f  %-5s  %s", body:seconds(), who, words)) end

-- Asks, and comes back when it is over: "succeeded", "failed" or "interrupted".
local function act(pulse)
  local ticket = body:ask(pulse)
  while true do
    coroutine.yield()
    local status = body:status(ticket)
    if status ~= "waiting" and status ~= "running" then return status end
  end
end

local function rest(seconds)
  local till = body:seconds() + seconds
  while body:seconds() < till do coroutine.yield() end
end

-- The whole behaviour, as one reads it.
local mind = coroutine.wrap(function()
  while true do
    while not body:is_in("body/notice") do coroutine.yield() end
    say("mind", "ask for a dive")
    local what = act("dive")
    say("mind", "the dive " .. what)
    rest(what == "succeeded" and 0.3 or 0.5)
  end
end)

-- The game: a keeper comes near and swings his net.
local step = 0
while not body:is_done() and step < 300 do
  local seconds = step / 60
  body:set("sees_keeper", seconds > 0.5)
  body:set("distance", math.max(60, 300 - 180 * seconds))
  if step == 150 or step == 175 then body:press("stunned") end
  mind()
  for _, told in ipairs(body:advance(1 / 60)) do
    if told.what == "enter" or told.kind == "damage" then say("body", told.line) end
    if told.what == "done" then say("game", "remove the hornet") end
  end
  step = step + 1
end

-- A misspelt name says so.
local fine, why = pcall(body.press, body, "dvie")
assert(not fine and why:find('"dive"', 1, true), why)
local known, unknown = pcall(mobrin.load, arg[0])
assert(not known and unknown:find("it does not begin as one", 1, true), unknown)
os.exit(body:is_done() and 0 or 1)
