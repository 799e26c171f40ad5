# frozen_string_literal: true

# A ride at Ferrowick: the plan that may come before it, where it ends, what it costs, and the fault that is reported
# after it.
module FerrowickRides
  # Up to which of a rider's rides how often a trip is planned first.
  PLANNED = [[3, 0.95], [10, 0.8], [30, 0.6], [Float::INFINITY, 0.42]].freeze

  private

  def ride(rider, subject, day)
    second = (6 * 3600) + @random.rand(15 * 3600)
    @silent = cut_off?(rider, day)
    minutes = 4 + @random.rand(rider.kind == :commuter ? 25 : 55)
    distance = (minutes * (0.13 + (@random.rand * 0.12))).round(2)
    quarter = finish(rider, day)
    bike = format("B%03d", @random.rand(700))
    if @random.rand < planning(rider)
      event("app", "trip_planned", subject, day, second - ahead(rider, day), %("to":"#{quarter}"))
      @silent ||= without_bike?(rider, day)
    end
    event("bike", "bike_unlocked", subject, day, second, %("bike":"#{bike}"))
    event("bike", "ride_ended", subject, day, second + (minutes * 60),
          %("bike":"#{bike}","distance_km":#{distance},"minutes":#{minutes},"quarter":"#{quarter}",) +
          %("cost":#{cost(rider, day, minutes)}))
    report(subject, day, second + (minutes * 60) + 60, quarter)
    event("app", "friend_invited", subject, day, second + 4000, %("channel":"link")) if @random.rand < 0.006
  end

  def cut_off?(rider, day)
    rider.quarter == Ferrowick::CUT_OFF_QUARTER && Ferrowick::CUT_OFF_DAYS.cover?(day) && rider.number % 10 < 7
  end

  def without_bike?(rider, day)
    rider.quarter == Ferrowick::SHORT_QUARTER && day >= Ferrowick::SHORT_SINCE && (rider.number + day.yday).even?
  end

  # New riders plan nearly every trip; whoever knows the town just rides.
  def planning(rider)
    rides = @rides[rider.number] += 1
    PLANNED.find { |most, _| rides <= most }.last
  end

  # Who rides for leisure takes time at weekends, from the plan on.
  def ahead(rider, day) = rider.kind != :commuter && (day.saturday? || day.sunday?) ? 1_500 : 300

  def finish(rider, day)
    quarter = @random.rand < 0.5 ? rider.quarter : pick(Ferrowick::QUARTERS)
    return quarter unless quarter == Ferrowick::BROKEN_QUARTER && Ferrowick::BROKEN_DAYS.cover?(day)

    (Ferrowick::QUARTERS - [Ferrowick::BROKEN_QUARTER])[@random.rand(Ferrowick::QUARTERS.size - 1)]
  end

  def cost(rider, day, minutes)
    return 0 unless rider.plan == "pay as you go" && !(switches?(rider) && day >= Ferrowick::FARE_CHANGE)

    (1 + (minutes * (day >= Ferrowick::FARE_CHANGE ? 0.24 : 0.16))).round(2)
  end

  def report(subject, day, second, quarter)
    broken = Ferrowick::BROKEN_DAYS.cover?(day)
    return unless @random.rand < (broken ? 0.06 : 0.012)

    event("app", "fault_reported", subject, day, second,
          %("part":"#{pick(%w[brake dock saddle light])}","quarter":"#{broken ? Ferrowick::BROKEN_QUARTER : quarter}"))
  end
end
