# frozen_string_literal: true

# Sums of decimal fractions, against what they come to on paper.
RSpec.describe Estrel::Analyses::Sum::Decimals do
  let(:sum) { Estrel::Analyses::Sum }

  # @param rows [Array<Array(Integer, String)>] a key, and a number as it is written
  def of(rows)
    frame = Polars::DataFrame.new({ "key" => rows.map(&:first), "value" => rows.map { |_, text| Float(text) } },
                                  schema_overrides: { "key" => Polars::Int64, "value" => Polars::Float64 })
    described_class.of(frame, "key")
  end

  def on_paper(rows) = rows.group_by(&:first).transform_values { |own| own.sum { |_, text| Rational(text) } }

  # With up to six places, of up to nine before them.
  def random_rows(random, size)
    Array.new(size) do
      millionths = random.rand(-(10**15)..(10**15)).fdiv(10**random.rand(12)).round(-random.rand(7))
      [random.rand(3), format("%s%d.%06d", millionths.negative? ? "-" : "", *millionths.abs.divmod(1_000_000))]
    end
  end

  seeds = Checks.seeds(5)
  seeds.each do |seed|
    it "are exact, in whatever parts and order, also when some have changed (seed #{seed})" do
      random = Random.new(seed)
      rows = random_rows(random, 500)
      found = rows.shuffle(random: random).each_slice(1 + random.rand(200)).map { |part| of(part) }
      expect(found.reduce { |one, other| sum.of(one, other) }).to eq(on_paper(rows))
      outdated = rows.first(60)
      fresh = random_rows(random, 40)
      expect([of(rows), of(outdated)]).to all(satisfy { |each| sum.exact?(each) })
      expect(sum.renewed(of(rows), of(outdated), of(fresh)).reject { |_, value| value.zero? }).to eq(on_paper(rows.drop(60) + fresh).reject { |_, value| value.zero? })
    end
  end

  it "are ten cents ten times over, and large whole numbers to the last digit" do
    expect([of([[1, "0.1"]] * 10), of([[1, (2**53).to_s], [1, "1"], [2, "-3"]]), of([])]).to eq([{ 1 => 1 }, { 1 => (2**53) + 1, 2 => -3 }, {}])
  end

  it "are no more than floats can be where values have more places or are too large, and are asked anew then" do
    [%w[0.1234567 1], %w[1e16 1], %w[9007199254740993.5 1], ["1", (1.0 / 3).to_s], Array.new(600, "9e15")].each do |texts|
      found = of(texts.map { |text| [1, text] })
      expect(found[1]).to be_a(Float).and be_within(1e-9 * found[1]).of(texts.sum(&:to_f))
      expect(sum.exact?(found)).to be(false)
    end
  end
end
