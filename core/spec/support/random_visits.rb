# frozen_string_literal: true

# Random conditions about visits.
module RandomVisits
  private

  def visit_condition = { "all" => [selection, *Array.new(@random.rand(3)) { deed }].shuffle(random: @random), "window" => window }

  # Something done in a visit, as often or as much as is asked.
  def deed
    return selection if @random.rand < 0.4

    did = did_condition.except("window")
    did["count"] ? { **did, "count" => did["count"].except("of") } : did
  end

  def visited_condition
    low = @random.rand(3)
    range = lambda { |most, upper|
      low_end = @random.rand(most)
      pick([{ "at_least" => low_end }, { upper => low_end + 1 }, { "at_least" => low_end, upper => low_end + 1 + @random.rand(most) }])
    }
    number = pick([{ "at_least" => low + 1 }, { "at_most" => low }, { "exactly" => low }, { "between" => [low, low + @random.rand(3)] }])
    { "count" => number, **maybe("length", range.call(3_000, "below")), **maybe("events", range.call(4, "at_most")), **maybe("number", range.call(5, "at_most")),
      **maybe("doing", Array.new(1 + @random.rand(2)) { deed }), **maybe("began", selection), **maybe("ended", selection), "window" => window }
  end
end
