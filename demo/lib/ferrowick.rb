# frozen_string_literal: true

require "date"
require "json"
require "zlib"
require_relative "ferrowick_messages"
require_relative "ferrowick_rides"
require_relative "ferrowick_updates"

# Ferrowick Bikes, an invented bike-share scheme in an invented harbour city: its riders and what they did in fifteen
# months. Deterministic by seed. demo/README.md says what was planted for analyses to find.
class Ferrowick
  include FerrowickRides

  SEED = 1871
  FIRST_DAY = Date.new(2025, 8, 1)
  LAST_DAY = Date.new(2026, 10, 31)
  TIME_ZONE = "Europe/Lisbon"
  QUARTERS = ["Harbour Steps", "Tannery Quay", "Lantern Hill", "Old Mint", "Saltmarsh", "Glasshouse Row"].freeze
  # Relative riding by month, January first: a winter lull and a long summer.
  SEASON = [0.28, 0.32, 0.62, 0.9, 1.15, 1.3, 1.4, 1.35, 1.15, 0.85, 0.5, 0.3].freeze
  FARE_CHANGE = Date.new(2026, 6, 1)
  BROKEN_QUARTER = "Tannery Quay"
  BROKEN_DAYS = (Date.new(2026, 7, 6)..Date.new(2026, 7, 26))
  # The bridge to this quarter is closed for a week: of ten who live there seven do not ride.
  CUT_OFF_QUARTER = "Old Mint"
  CUT_OFF_DAYS = (Date.new(2026, 10, 5)..Date.new(2026, 10, 11))
  # Bikes are short here from this day on: of ten trips that somebody who lives here plans, five end with the plan.
  SHORT_QUARTER = "Saltmarsh"
  SHORT_SINCE = Date.new(2026, 8, 1)
  KIOSKS_OFFLINE = (Date.new(2026, 2, 2)..Date.new(2026, 2, 15))
  SPRING_CAMPAIGN = Date.new(2026, 3, 16)
  AUTUMN_CAMPAIGN = Date.new(2026, 9, 14)

  # How many riders of each kind there are, their rides per day in an average month, and how they behave.
  KINDS = { commuter: [1_900, 0.245], leisure: [3_600, 0.059], seasonal: [1_800, 0.092], tourist: [1_900, 0.58],
            fare_leaver: [800, 0.116] }.freeze
  CONTACTS = 1_200
  VISITORS = 800

  Rider = Struct.new(:number, :kind, :joined, :plan, :quarter, :rate, :leaves, :reached, keyword_init: true)

  # @param seed [Integer]
  def initialize(seed: SEED)
    @random = Random.new(seed)
    @number = 0
  end

  # @param directory [String] gets profiles.jsonl.gz, events.jsonl.gz, messages.jsonl.gz and updates.jsonl.gz
  # @return [void]
  def write(directory)
    riders = all_riders
    gzip(File.join(directory, "profiles.jsonl.gz")) { |out| write_profiles(riders, out) }
    gzip(File.join(directory, "events.jsonl.gz")) { |out| write_events(riders, out) }
    gzip(File.join(directory, "messages.jsonl.gz")) { |out| FerrowickMessages.new(riders, out).write }
    gzip(File.join(directory, "updates.jsonl.gz")) { |out| FerrowickUpdates.new(riders, out).write }
  end

  private

  def gzip(path)
    File.open(path, "wb") do |file|
      out = Zlib::GzipWriter.new(file, Zlib::BEST_SPEED)
      out.mtime = 1 # the same bytes every time
      yield(out)
      out.finish
    end
  end

  def pick(list) = list[@random.rand(list.size)]

  def all_riders
    KINDS.flat_map { |kind, (count, rate)| Array.new(count) { |index| rider(kind, rate, index) } }
  end

  def rider(kind, rate, index)
    joined = joining_day(kind)
    Rider.new(number: @number += 1, kind: kind, joined: joined, plan: plan(kind), quarter: pick(QUARTERS),
              rate: rate * (0.4 + (@random.rand * 1.2)), leaves: leaving_day(kind, joined),
              reached: kind == :seasonal ? index.even? : @random.rand < 0.5)
  end

  def joining_day(kind)
    return FIRST_DAY + @random.rand(60) if kind == :seasonal
    return FIRST_DAY + @random.rand(200) if kind == :fare_leaver
    return FIRST_DAY if @random.rand < 0.35 && kind != :tourist

    loop do
      day = FIRST_DAY + @random.rand((LAST_DAY - FIRST_DAY).to_i - 2)
      return day if @random.rand < SEASON[day.month - 1] / 1.4
    end
  end

  def leaving_day(kind, joined)
    case kind
    when :tourist then joined + 1 + @random.rand(6)
    when :fare_leaver then FARE_CHANGE
    when :leisure then @random.rand < 0.45 ? joined + 20 + @random.rand(260) : LAST_DAY + 1
    else @random.rand < 0.12 ? joined + 60 + @random.rand(300) : LAST_DAY + 1
    end
  end

  def plan(kind)
    case kind
    when :commuter then @random.rand < 0.6 ? "monthly pass" : "pay as you go"
    when :tourist then @random.rand < 0.7 ? "day pass" : "pay as you go"
    else "pay as you go"
    end
  end

  # Pay-as-you-go commuters who take a monthly pass when the fare goes up.
  def switches?(rider) = rider.kind == :commuter && rider.plan == "pay as you go" && rider.number.odd?

  def write_profiles(riders, out)
    riders.each do |rider|
      id = customer(rider)
      facts = { "subject" => "customer:#{id}", "time" => stamp(rider.joined, 7 * 3600),
                "identifiers" => addresses(rider),
                "attributes" => { "plan" => rider.plan, "home_quarter" => rider.quarter,
                                  "age" => 17 + @random.rand(60), "newsletter" => @random.rand < 0.55 } }
      out.puts(JSON.generate(facts))
      next unless switches?(rider) && rider.joined < FARE_CHANGE

      out.puts(JSON.generate("subject" => "customer:#{id}", "time" => stamp(FARE_CHANGE, 8 * 3600),
                             "attributes" => { "plan" => "monthly pass" }))
    end
    CONTACTS.times do |index|
      day = FIRST_DAY + @random.rand(450)
      out.puts(JSON.generate("subject" => "email:reader#{index}@post.ferrowick.example", "time" => stamp(day, 9 * 3600),
                             "attributes" => { "newsletter" => true, "home_quarter" => pick(QUARTERS) }))
    end
  end

  def customer(rider) = format("F%05d", rider.number)

  def addresses(rider)
    addresses = {}
    addresses["email"] = "rider#{rider.number}@post.ferrowick.example" if @random.rand < 0.82
    addresses["phone"] = format("+000 555 %06d", rider.number) if @random.rand < 0.4
    addresses["loyalty"] = format("L%05d", rider.number) if rider.kind == :commuter
    addresses
  end

  def write_events(riders, out)
    @out = out
    @serial = 0
    @rides = Hash.new(0)
    riders.each { |rider| live(rider) }
    VISITORS.times { |index| browse(index) }
  end

  def live(rider)
    subject = "customer:#{customer(rider)}"
    campaigns(rider, subject)
    buy_pass(rider, subject, rider.joined) unless rider.plan == "pay as you go"
    last = [rider.leaves - 1, LAST_DAY].min
    (rider.joined..last).each do |day|
      buy_pass(rider, subject, day) if renewal?(rider, day)
      ride(rider, subject, day) if @random.rand < intensity(rider, day)
      @silent = false
    end
  end

  def intensity(rider, day)
    return rider.rate if rider.kind == :tourist
    return seasonal_intensity(rider, day) if rider.kind == :seasonal

    working_day, weekend = rider.kind == :commuter ? [1.2, 0.45] : [0.65, 1.9]
    rider.rate * SEASON[day.month - 1] * (day.saturday? || day.sunday? ? weekend : working_day)
  end

  # Never from November to the middle of March; those reached by the spring campaign are all reactivated within a week
  # of it, the others when May is there, if at all.
  def seasonal_intensity(rider, day)
    return 0 if day.month >= 11 || day.month <= 2 || (day.month == 3 && day < SPRING_CAMPAIGN)
    return rider.rate * SEASON[day.month - 1] if day < FIRST_DAY + 100
    return rider.rate * SEASON[day.month - 1] if rider.reached || (rider.number % 5 != 0 && day.month >= 5)

    0
  end

  def renewal?(rider, day)
    switched = switches?(rider) && day >= FARE_CHANGE
    (rider.plan == "monthly pass" || switched) && day != rider.joined && day.mday == 1 + (rider.number % 28)
  end

  def buy_pass(rider, subject, day)
    pass = rider.plan == "day pass" ? "day pass" : "monthly pass"
    kiosk = (rider.number % 3).zero?
    late = kiosk && KIOSKS_OFFLINE.cover?(day) ? (KIOSKS_OFFLINE.last + 2 - day).to_i * 86_400 : 0
    event(kiosk ? "kiosk" : "app", "pass_bought", subject, day, (8 * 3600) + @random.rand(36_000),
          %("pass":"#{pass}","price":#{pass == "day pass" ? 6.5 : 24}), late: late)
  end

  # The spring campaign reaches half of the seasonal riders and works; the autumn campaign reaches half of everybody
  # else and does nothing.
  def campaigns(rider, subject)
    spring = rider.kind == :seasonal
    return unless rider.reached && rider.joined < (spring ? SPRING_CAMPAIGN : AUTUMN_CAMPAIGN)

    name, day = spring ? ["spring_hello", SPRING_CAMPAIGN] : ["autumn_news", AUTUMN_CAMPAIGN]
    event("campaigns", "message_received", subject, day, 36_000, %("campaign":"#{name}","channel":"email"))
    return unless @random.rand < (spring ? 0.5 : 0.22)

    event("campaigns", "message_opened", subject, day, 36_000 + 600 + @random.rand(40_000),
          %("campaign":"#{name}"))
    first_ride_of_spring(rider, subject) if spring
  end

  def first_ride_of_spring(rider, subject) = ride(rider, subject, SPRING_CAMPAIGN + 1 + @random.rand(6))

  def browse(index)
    subject = format("visitor:v-%04d", index)
    day = FIRST_DAY + @random.rand(455)
    (1 + @random.rand(4)).times do |step|
      event("web", "trip_planned", subject, day, 36_000 + (step * 90), %("to":"#{pick(QUARTERS)}"))
    end
  end

  # What does not happen is made up all the same, so that all the rest stays as it is.
  def event(source, type, subject, day, second, data, late: 0)
    return if @silent

    @serial += 1
    @out.write(%({"specversion":"1.0","id":"#{source}-#{@serial}","source":"#{source}","type":"#{type}",),
               %("subject":"#{subject}",),
               %("time":"#{stamp(day, second)}","receivedat":"#{stamp(day, second + 3 + late)}","data":{#{data}}}\n))
  end

  def stamp(day, second)
    @days ||= Hash.new { |days, date| days[date] = date.strftime("%Y-%m-%d") }
    extra, second = second.divmod(86_400)
    hour, rest = second.divmod(3600)
    minute, second = rest.divmod(60)
    format("%sT%02d:%02d:%02dZ", @days[extra.zero? ? day : day + extra], hour, minute, second)
  end
end
