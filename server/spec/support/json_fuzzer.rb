# frozen_string_literal: true

# Makes the texts of events whose data is anything JSON can say, and some things it cannot: numbers of every size and
# form, names with every character, deep nesting, lone surrogates, broken ends. The same seed makes the same texts.
class JsonFuzzer
  NUMBERS = %w[0 -0 1 -1 1.5 1e3 1E-3 9007199254740992 9007199254740993 -9007199254740993 9223372036854775807 9223372036854775808 -9223372036854775809
               18446744073709551616 89490200001234567890 1e22 1e308 1e309 -1e999 1e-400 0.1 123456789012345.678901234567890 4.9e-324 1.7976931348623157e308].freeze
  NAMES = ["km", "\\", "\\\\n", "'", "\"", "$", "$.x", "a.b", "a b", "[0]", "*", "@", "ü", "日本", "\u202e", "\u{1F6B2}", "é" * 50, "null", "profile_id",
           "property:km", "N", "`", "${1}", "%", "_", "#", "?", "day"].freeze
  BROKEN = ["NaN", "Infinity", "01", "1.", ".5", "+1", "1e", "\"\\ud800\"", "\"\\ud800x\"", "\"\\x\"", "\"\t\"", "'x'", "[1,", "{\"a\":}", "undefined", "\"\xff\""].freeze
  TYPES = %w[ride_ended pass_bought x].freeze

  def initialize(seed)
    @random = Random.new(seed)
  end

  # @return [String] one event
  def event(id)
    name = text(NAMES.sample(random: @random))
    value = value(0)
    others = @random.rand(3).zero? ? ",#{text(NAMES.sample(random: @random))}:#{value(0)}" : ""
    type = TYPES.sample(random: @random)
    data = @random.rand(50).zero? ? value(0) : "{#{name}:#{value}#{others}}"
    %({"specversion":"1.0","id":"#{id}","source":"app","type":"#{type}","subject":"customer:#{@random.rand(50)}","time":"2026-05-03T10:00:00Z","data":#{data}})
  end

  # @return [String] one profile
  def profile(id)
    %({"subject":"customer:p#{id}","time":"2026-05-03T10:00:00Z","attributes":{#{text(NAMES.sample(random: @random))}:#{value(0)},#{text("x" * @random.rand(1..400))}:#{value(0)}}})
  end

  private

  def value(depth)
    case @random.rand(depth > 3 ? 8 : 12)
    when 0, 1, 2 then number
    when 3 then BROKEN.sample(random: @random)
    when 4, 5 then text(["", "x", "2026-05-03T10:00:00Z", "null", "true", "\u0000", "a\nb", "\u2028", "=1+1", "x" * 3000].sample(random: @random))
    when 6 then %w[true false].sample(random: @random)
    when 7 then "null"
    when 8 then "[#{Array.new(@random.rand(3)) { value(depth + 1) }.join(",")}]"
    when 9 then "{#{Array.new(@random.rand(3)) { "#{text(NAMES.sample(random: @random))}:#{value(depth + 1)}" }.join(",")}}"
    when 10 then deep
    else %("\\ud83d\\udeb2")
    end
  end

  def number
    @random.rand(20).zero? ? Array.new(@random.rand(1..5000)) { @random.rand(1..9) }.join : NUMBERS.sample(random: @random)
  end

  def deep
    depth = [5, 17, 18, 25, 200, 3000].sample(random: @random)
    "#{"[" * depth}#{"]" * depth}"
  end

  def text(string) = JSON.generate(string)
end
