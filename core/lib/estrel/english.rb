# frozen_string_literal: true

module Estrel
  # How numbers, dates, names and lists are said in sentences, everywhere alike.
  module English
    IRREGULAR = %w[bought sent paid made left lost found sold read told met won put set cut].freeze
    MASS = %w[feedback money content help news information].freeze
    private_constant :IRREGULAR, :MASS

    module_function

    # A past participle phrase where the name has the common shape thing_verb: "ride_ended" → "ended a ride".
    #
    # @param name [String] of an event type
    # @return [String, nil] nil where the name has another shape
    def participle(name)
      *thing, verb = name.split("_")
      return if thing.empty? || !(verb.match?(/\A[a-z]{2,}ed\z/) || IRREGULAR.include?(verb))

      words = thing.join(" ")
      "#{verb} #{article(words)}#{words}"
    end

    # @return [String] what somebody did: "ended a ride", or "did page_view"
    def done(name) = participle(name) || "did #{name}"

    # @return [String] the same after "have not": "bought a pass", or "done page_view"
    def not_done(name) = participle(name) || "done #{name}"

    # @param within [Hash] such as `{"days" => 7}`
    # @return [String] "7 days", "a day"
    def within(within)
      unit, count = within.first
      if count == 1
        "#{unit == "hours" ? "an" : "a"} #{unit.delete_suffix("s")}"
      else
        "#{count} #{unit}"
      end
    end

    # @param value [Object] of a comparison
    # @return [String]
    def value(value)
      case value
      when Date then date(value)
      when Float then (value % 1).zero? ? value.to_i.to_s : value.to_s
      when "" then "(empty)"
      else value.to_s
      end
    end

    # @param date [Date]
    # @return [String] "3 Sep 2026"
    def date(date) = date.strftime("%-d %b %Y")

    # @param state [String] of {Lifecycle::STATES}, or another name of ours
    # @return [String] "never active"
    def state(state) = state.tr("_", " ")

    # @param channel [String]
    # @return [String] "e-mail"
    def channel(channel) = { "email" => "e-mail", "sms" => "SMS", "push" => "push message" }.fetch(channel, channel)

    # @param words [Array<String>]
    # @return [String] "new, active or dormant"
    def either(words) = list(words, "or")

    # @param words [Array<String>]
    # @param joint [String] before the last one
    # @return [String] "app, kiosk and web"
    def list(words, joint) = words.size < 2 ? words.join : "#{words[..-2].join(", ")} #{joint} #{words.last}"

    # @param value [Integer]
    # @return [String] "12,345"
    def number(value) = value.to_s.reverse.scan(/\d{1,3}/).join(",").reverse

    # @param count [Integer]
    # @param thing [String] in the singular; its plural ends in s
    # @return [String] "1 day", "1,200 days"
    def counted(count, thing) = "#{number(count)} #{thing}#{"s" unless count == 1}"

    # @param share [Float]
    # @return [String] "12%"; below ten with one decimal, and never nothing where there is something
    def percent(share)
      value = (share * 100).round(1)
      return "< 0.1%" if share.positive? && value.zero?

      "#{value < 10 && value % 1 != 0 ? value : (share * 100).round}%"
    end

    # @param number [Integer] at least 1
    # @return [String] "once", "twice", "5 times"
    def times(number)
      case number
      when 1 then "once"
      when 2 then "twice"
      else "#{number} times"
      end
    end

    def article(words)
      first, last = words.split.then { |list| [list.first, list.last] }
      return "" if MASS.include?(last) || (last.end_with?("s") && !last.end_with?("ss", "us"))

      first.match?(/\A[aeiou]/) ? "an " : "a "
    end
  end
end
