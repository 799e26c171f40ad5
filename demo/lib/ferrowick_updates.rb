# frozen_string_literal: true

require "date"
require "json"

# What reaches Ferrowick Bikes beside the rides: consent, attributes, links between browsers and customers, shared
# devices, a misspelt event type, and a partner that has stopped delivering. Kind by kind, each in order of time.
class FerrowickUpdates
  SEED = 1872
  LINKED = 250
  HOUSEHOLDS = 40
  MISSPELT_FROM = Date.new(2026, 10, 27)
  MISSPELT = 180
  TRAM_DAYS = (Date.new(2025, 9, 1)..Date.new(2026, 8, 31))
  INTERESTS = %w[commuting family night racing sightseeing].freeze

  # @param riders [Array<Ferrowick::Rider>]
  # @param out [#write]
  def initialize(riders, out)
    @riders = riders
    @out = out
    @random = Random.new(SEED)
    @serial = 0
    @lines = []
  end

  # @return [void]
  def write
    [[:consents], [:interests], [:misspelt], [:trams], %i[linked_browsers households]].each do |kinds|
      kinds.each { |kind| send(kind) }
      ordered = @lines.sort_by.with_index { |(time, _), index| [time, index] }
      ordered.each { |line| @out.write("#{line.last}\n") }
      @lines.clear
    end
  end

  private

  def id(rider) = "customer:#{format("F%05d", rider.number)}"

  def say(source, type, subject, day, second, data)
    at = (Time.utc(day.year, day.month, day.day) + second).strftime("%Y-%m-%dT%H:%M:%SZ")
    later = (Time.utc(day.year, day.month, day.day) + second + 2).strftime("%Y-%m-%dT%H:%M:%SZ")
    @serial += 1
    @lines << [at, JSON.generate({ specversion: "1.0", id: "u-#{@serial}", source: source, type: type, subject: subject,
                                   time: at, receivedat: later, data: data })]
  end

  def consent(rider, day, channel, given, evidence)
    say("app", "estrel.consent", id(rider), day, 25_300, { channel: channel, given: given, evidence: evidence })
  end

  # Two in three allow e-mail when they join, one in three push; one in twelve of the former takes it back later.
  def consents
    @riders.each do |rider|
      consent(rider, rider.joined, "push", true, "asked by the app") if @random.rand < 0.33
      next unless @random.rand < 0.66

      consent(rider, rider.joined, "email", true, "sign-up form")
      later = rider.joined + 20 + @random.rand(200)
      consent(rider, later, "email", false, "unsubscribe link") if @random.rand < 0.08 && later < Ferrowick::LAST_DAY
    end
  end

  def interests
    @riders.each do |rider|
      next unless @random.rand < 0.3

      chosen = INTERESTS.sample(1 + @random.rand(3), random: @random).sort
      say("app", "estrel.attributes", id(rider), rider.joined, 26_000,
          { interests: chosen, member_since: rider.joined.iso8601 })
    end
  end

  # People who looked around in a browser before they joined, and then signed in there.
  def linked_browsers
    newcomers = @riders.select { |rider| rider.joined > Ferrowick::FIRST_DAY + 3 }
    newcomers.sample(LINKED, random: @random).each_with_index do |rider, index|
      browser = format("visitor:w-%04d", index)
      looks = 1 + @random.rand(3)
      looks.times { |step| plan(browser, rider.joined - 1 - @random.rand(3), 40_000 + (step * 120)) }
      say("web", "estrel.link", browser, rider.joined, 25_500, { same_as: id(rider) })
    end
  end

  def plan(browser, day, second)
    say("web", "trip_planned", browser, day, second, { to: Ferrowick::QUARTERS.sample(random: @random) })
  end

  # Two customers, one tablet: first the one signs in there, months later the other.
  def households
    commuters = @riders.select { |rider| rider.kind == :commuter && rider.joined < Date.new(2026, 1, 1) }
    commuters.sample(2 * HOUSEHOLDS, random: @random).each_slice(2).with_index do |(one, other), index|
      tablet = format("visitor:tablet-%02d", index)
      [[one, Date.new(2026, 2, 1)], [other, Date.new(2026, 5, 1)]].each do |rider, from|
        day = from + @random.rand(40)
        say("web", "estrel.link", tablet, day, 61_000, { same_as: id(rider) })
        3.times { |step| plan(tablet, day + step, 62_000) }
      end
    end
  end

  # A new version of the app that spells it differently.
  def misspelt
    riding = @riders.select { |rider| rider.kind == :commuter && rider.leaves > Ferrowick::LAST_DAY }
    riding.sample(MISSPELT, random: @random).each do |rider|
      say("app", "rideEnded", id(rider), MISSPELT_FROM + @random.rand(5), 50_000 + @random.rand(9_000),
          { distance_km: (1 + (@random.rand * 4)).round(2), quarter: rider.quarter })
    end
  end

  def trams
    riding = @riders.select { |rider| rider.kind == :commuter && rider.joined <= TRAM_DAYS.first }
    TRAM_DAYS.each do |day|
      riding.sample(5, random: @random).each do |rider|
        say("tram", "tram_boarded", id(rider), day, 28_000 + @random.rand(30_000), { line: 1 + @random.rand(4) })
      end
    end
  end
end
