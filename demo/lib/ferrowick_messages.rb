# frozen_string_literal: true

require "date"
require "json"

# The messages Ferrowick Bikes sends again and again, besides its two great campaigns: a letter by e-mail, news of the
# docks by push message, reminders of passes by SMS; and what came of them. None is sent between May and September.
class FerrowickMessages
  SEED = 1873
  # Name, channel, days it was sent on, and how many riders it goes to (every n-th).
  SERIES = {
    "ride_letter" => ["email", [*(9..12).map { |month| Date.new(2025, month, 15) },
                                *(1..4).map { |month| Date.new(2026, month, 15) },
                                Date.new(2026, 10, 5), Date.new(2026, 10, 19)], 4],
    "dock_news" => ["push", [Date.new(2025, 11, 6), Date.new(2025, 12, 4), Date.new(2026, 1, 8), Date.new(2026, 2, 5),
                             Date.new(2026, 3, 5)], 9],
    "pass_reminder" => ["sms", [*(1..4).map { |month| Date.new(2026, month, 27) }], 11]
  }.freeze
  # Every seventh reader reads faithfully; the others tire from letter to letter.
  FAITHFUL = 7
  KEEN = 0.85
  FIRST_TIME = 0.45
  TIRING = 0.75

  # @param riders [Array<Ferrowick::Rider>]
  # @param out [#write]
  def initialize(riders, out)
    @riders = riders
    @out = out
    @random = Random.new(SEED)
    @serial = 0
  end

  # @return [void]
  def write
    SERIES.each do |name, (channel, days, every)|
      readers = @riders.select { |rider| (rider.number % every).zero? }
      days.each { |day| readers.each { |rider| send_to(rider, name, channel, day) if rider.joined < day } }
    end
  end

  private

  def send_to(rider, name, channel, day)
    data = { campaign: name, channel: channel }
    return say("message_bounced", rider, day, 33_000, data) if @random.rand < 0.01

    say("message_received", rider, day, 32_400 + @random.rand(600), data)
    return unless @random.rand < interest(rider, name, day)

    opened = 34_000 + @random.rand(30_000)
    say("message_opened", rider, day, opened, data) unless channel == "sms"
    say("message_clicked", rider, day, opened + 60, data) if channel == "sms" || @random.rand < 0.3
  end

  def interest(rider, name, day)
    return KEEN if (rider.number % FAITHFUL).zero?

    sent = SERIES.fetch(name)[1]
    FIRST_TIME * (TIRING**(sent.index(day) - sent.count { |earlier| earlier <= rider.joined }))
  end

  def say(type, rider, day, second, data)
    at = (Time.utc(day.year, day.month, day.day) + second).strftime("%Y-%m-%dT%H:%M:%SZ")
    @serial += 1
    event = { specversion: "1.0", id: "m-#{@serial}", source: "campaigns", type: type,
              subject: "customer:#{format("F%05d", rider.number)}", time: at, receivedat: at, data: data }
    @out.write("#{JSON.generate(event)}\n")
  end
end
