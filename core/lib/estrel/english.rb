# frozen_string_literal: true

module Estrel
  # How numbers, dates, names and lists are said in sentences, everywhere alike.
  module English
    # Past forms that do not end in -ed, and what they become after "have not", where that differs.
    IRREGULAR = %w[bought sent paid made left lost found sold read told met won put set cut].freeze
    PERFECT = { "went" => "gone", "took" => "taken", "gave" => "given", "wrote" => "written", "saw" => "seen",
                "began" => "begun", "chose" => "chosen", "did" => "done", "drove" => "driven", "ate" => "eaten",
                "flew" => "flown", "knew" => "known", "rode" => "ridden", "spoke" => "spoken", "swam" => "swum",
                "threw" => "thrown", "wore" => "worn", "broke" => "broken", "drew" => "drawn", "came" => "come",
                "ran" => "run", "became" => "become", "withdrew" => "withdrawn", "forgot" => "forgotten",
                "was" => "been", "were" => "been" }.freeze
    # Words that end in -ed and are no past forms.
    NO_VERBS = %w[feed seed need speed weed breed deed embed hundred sacred naked breed exceed proceed].freeze
    MASS = %w[feedback money content help news information].freeze
    # Where a name in humps begins another word, and what lies between words.
    HUMP = /(?<=[\p{Ll}\d])(?=\p{Lu})|(?<=\p{Lu})(?=\p{Lu}\p{Ll})/
    BETWEEN_WORDS = /[^\p{L}\p{N}%#+&']+/ # linear: one run follows the other
    # Characters of a name or value that a sentence or a legend shows; raw names and values stand in full beside it.
    SHOWN = 60
    private_constant :HUMP, :BETWEEN_WORDS, :IRREGULAR, :PERFECT, :NO_VERBS, :MASS

    module_function

    # A raw name as words: "Order Completed" and "order_completed" → "order completed", "$view" → "view".
    #
    # @param name [String]
    # @return [String] abbreviations keep their capitals; a name without any letter or digit stays as it is
    def humanised(name)
      words = name.gsub(HUMP, " ").split(BETWEEN_WORDS).reject(&:empty?)
      return name if words.empty?

      words.map { |word| word.match?(/\A\p{Lu}{2,5}\z/) ? word : word.downcase }.join(" ")
    end

    # A past participle phrase where the words have the common shape thing verb: "ride ended" → "ended a ride".
    #
    # @param words [String] what an event type is called
    # @return [String, nil] nil where the words have another shape
    def participle(words)
      *thing, verb = words.split
      return if thing.empty? || !past?(verb)

      "#{verb} #{article(thing.join(" "))}#{thing.join(" ")}"
    end

    def past?(verb)
      IRREGULAR.include?(verb) || (verb.end_with?("ed") && verb.match?(/\A[a-z]{4,60}\z/) && !NO_VERBS.include?(verb))
    end
    private_class_method :past?

    # @param phrase [String] in the past: "took a tram"
    # @return [String] after "have not": "taken a tram"
    def perfect(phrase)
      verb, *rest = phrase.split
      [PERFECT.fetch(verb, verb), *rest].join(" ")
    end

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

    # A number of something, rounded to what can be read: money to hundredths, anything else to four places.
    #
    # @param value [Numeric]
    # @param quantity [String, nil] of {Names::QUANTITIES}
    # @param unit [String, nil] "km", a currency, …
    # @return [String] "1,234.50 orrins", "3.2 km", "15 min", "12%"
    def quantity(value, quantity, unit)
      return percent(value) if quantity == "share"

      figure = quantity == "money" ? fixed(value, 2) : fixed(value, 4).sub(/\.?0{1,4}\z/, "")
      unit.to_s.empty? ? figure : "#{figure} #{unit}"
    end

    def fixed(value, places)
      whole, rest = format("%.#{places}f", value.abs).split(".")
      "#{"−" if value.negative?}#{number(whole)}.#{rest}"
    end
    private_class_method :fixed

    # @param date [Date]
    # @return [String] "3 Sep 2026"
    def date(date) = date.strftime("%-d %b %Y")

    # @param state [String] of {Lifecycle::STATES}, or another name of ours
    # @return [String] "never active"
    def state(state) = state.tr("_", " ")

    # @param channel [String]
    # @return [String] "email"
    def channel(channel) = { "sms" => "SMS" }.fetch(channel, channel)

    # @param words [Array<String>]
    # @return [String] "new, active or dormant"
    def either(words) = list(words, "or")

    # @param words [Array<String>]
    # @param joint [String] before the last one
    # @return [String] "app, kiosk and web"
    def list(words, joint) = words.size < 2 ? words.join : "#{words[..-2].join(", ")} #{joint} #{words.last}"

    # @param text [String] such as the value of a property
    # @return [String] at most {SHOWN} characters of it
    def shortened(text) = text.length > SHOWN ? "#{text[0, SHOWN - 1].rstrip}…" : text

    # @param name [String]
    # @return [String] in quotation marks, at most {SHOWN} characters of it; quotation marks in it become single ones
    def quoted(name) = "“#{shortened(name).tr("“”", "‘’")}”"

    # @param text [String]
    # @return [String] with a capital first letter
    def capitalized(text) = text.sub(/\A\p{Ll}/, &:upcase)

    # @param text [String] what is wrong, in words
    # @return [String] the same as a whole sentence
    def sentence(text)
      said = text.match?(/\A[a-z]+(?:[ ,]|\z)/) ? "#{text[0].upcase}#{text[1..]}" : text
      said.match?(/[.!?…]\z/) ? said : "#{said}."
    end

    # @param name [String] of a setting, such as "new_for"
    # @return [String] the same as a label: "\"New for\""
    def field(name) = "\"#{name.tr("_", " ").capitalize}\""

    # @param value [Integer]
    # @return [String] "12,345"
    def number(value) = value.to_s.reverse.scan(/\d{1,3}/).join(",").reverse

    # @param count [Integer]
    # @param thing [String] in the singular; its plural ends in s
    # @return [String] "1 day", "1,200 days"
    def counted(count, thing) = "#{number(count)} #{thing}#{"s" unless count == 1}"

    # @param count [Integer]
    # @return [String] "1 person", "1,200 people"
    def people(count) = count == 1 ? "1 person" : "#{number(count)} people"

    # @param seconds [Numeric]
    # @return [String] in the largest units that say enough: "45 s", "12 min", "2 h 10 min", "3 days"
    def duration(seconds)
      return "#{seconds.round} s" if seconds < 59.5

      hours, minutes = (seconds / 60.0).round.divmod(60)
      return "#{minutes} min" if hours.zero?
      return counted((seconds / 86_400).floor, "day") if seconds >= 172_800

      minutes.zero? ? "#{hours} h" : "#{hours} h #{minutes} min"
    end

    # @param share [Float]
    # @return [String] "12%"; below ten with one decimal, and never nothing where there is something
    def percent(share)
      value = (share * 100).round(1)
      return "< 0.1%" if share.positive? && value.zero?

      "#{value < 10 && value % 1 != 0 ? value : (share * 100).round}%"
    end

    # @param share [Float] by which something grew
    # @return [String] "+12%", "−3.1%", "±0%"
    def growth(share) = "#{sign(share)}#{percent(share.abs)}"

    # @param count [Integer] by which something changed
    # @return [String] "+1,200", "−3", "±0"
    def change(count) = "#{sign(count)}#{number(count.abs)}"

    def sign(value) = { 1 => "+", 0 => "±", -1 => "−" }.fetch(value <=> 0)
    private_class_method :sign

    # @param share [Float]
    # @return [String] "95.8%": with one decimal, for a share that stands beside its difference to another
    def precise(share) = "#{format("%.1f", share * 100)}%"

    # @param difference [Float] of two shares
    # @return [String] in percentage points: "+3.1", "−3.1", "0.0"
    def points(difference)
      figure = format("%.1f", difference.abs * 100)
      return figure if figure == "0.0"

      "#{difference.positive? ? "+" : "−"}#{figure}"
    end

    # @param value [Float]
    # @return [String] "1.06"
    def ratio(value) = format("%.2f", value)

    # @param value [Numeric] that may be small
    # @return [String] with three decimals, or two figures that tell: "1.250", "0.0031"; with one from a hundred on
    def rate(value)
      return "0" if value.zero?

      size = value.abs
      return fixed(value, 1) if size >= 100

      "#{"−" if value.negative?}#{format("%.*f", size >= 0.1 ? 3 : [12, 1 - Math.log10(size).floor].min, size)}"
    end

    # @param difference [Hash{Symbol => Float}] of shares, with `low` and `high`
    # @return [String] "95% interval of the difference: −3.3 to +7.6 points"
    def interval_of_difference(difference)
      low, high = difference.values_at(:low, :high).map { |value| points(value) }
      "95% CI of the difference #{interval(low, high)} pp"
    end

    # @param low [String]
    # @param high [String]
    # @return [String] "−3.3 to +7.6"
    def interval(low, high) = "#{low} to #{high}"

    # @param number [Integer]
    # @return [String] "1st", "12th", "23rd"
    def ordinal(number)
      ending = (11..13).cover?(number % 100) ? "th" : { 1 => "st", 2 => "nd", 3 => "rd" }.fetch(number % 10, "th")
      "#{number(number)}#{ending}"
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
