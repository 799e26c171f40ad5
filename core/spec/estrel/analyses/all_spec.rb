# frozen_string_literal: true

# What holds of every analysis in the list, on random histories.
RSpec.describe Estrel::Analyses do
  seeds = Checks.seeds(2, every_run: 1)

  def asked(seed, tail: 0)
    population = RandomPopulation.new(seed).population
    with_ledger(population, tail: tail) { |ledger| yield AskedAnalyses.new(seed, population, ledger) }
  end

  # An answer as plain JSON.
  def plain(answer) = JSON.parse(JSON.generate(answer.to_h))

  # Where two answers first differ, their numbers compared to as many digits as survive adding up in another order; nil
  # where they do not. Matchers would take minutes for what some pictures hold.
  def difference(one, other, place = [])
    case one
    when Hash then return differences(one.keys | other.keys, one, other, place) if other.is_a?(Hash)
    when Array
      return differences(one.each_index, one, other, place) if other.is_a?(Array) && one.size == other.size
    when Float
      return if other.is_a?(Numeric) && (one - other).abs <= [1e-12, 1e-11 * other.abs].max
    end
    [place, one, other] unless one == other
  end

  def differences(keys, one, other, place)
    keys.each { |key| (found = difference(one[key], other[key], [*place, key])) && (return found) }
    nil
  end

  # The ends of long lists, whose rows are all of a kind, but for the hours of a week: holding every row against a schema
  # takes minutes, too.
  def thinned(json)
    case json
    when Hash then json.transform_values { |value| thinned(value) }
    when Array then (json.size > 24 && json.size != 168 ? json.first(12) + json.last(12) : json).map { |value| thinned(value) }
    else json
    end
  end

  def each_answer(one, parts)
    one.questions.each do |address, questions|
      questions.each { |question| yield address, question, described_class.named(address).ask(question, one.workspace(parts: parts)).over }
    end
  end

  # What is answered of a whole ledger in one part, question by question.
  def whole(seed)
    AskedAnalyses.remembered(seed) do
      asked(seed) { |one| [].tap { |answers| each_answer(one, 1) { |_, _, answer| answers << plain(answer) } } }
    end
  end

  # Where a ledger's answers in so many parts differ from the whole.
  def differing(one, parts, whole)
    index = -1
    each_answer(one, parts) { |address, question, answer| (found = difference(plain(answer), whole[index += 1])) && (return [address, question, found]) }
    nil
  end

  it "has a question for every analysis here, so that all are looked at" do
    asked(1) { |one| expect(one.questions.keys).to match_array(described_class.all.map(&:address)) }
  end

  seeds.zip([7, 2]).each do |seed, parts|
    it "answers the same from one part and from several, as its schema says (seed #{seed})" do
      asked(seed) { |one| expect(differing(one, parts, whole(seed))).to be_nil }
      whole(seed).each do |answer|
        name = described_class.named(answer["analysis"]).schema.answer_name
        schema = JSONSchemer.schema({ "components" => { "schemas" => Estrel::Analyses::Schema.components }, "$ref" => "#/components/schemas/#{name}" })
        expect(schema.validate(thinned(answer)).map { |fault| fault["error"] }.first(3)).to be_empty, name
      end
    end

    it "answers the same where what is true of some people lies in a tail, also the second time (seed #{seed})" do
      asked(seed, tail: 24) do |one|
        expect(one.ledger).to be_a(Estrel::Ledger::WithTail)
        shelf = -> { Dir.glob(File.join(one.ledger.directory, "shelf-*", "*")) }
        sizes = Array.new(2) do
          expect(differing(one, 3, whole(seed))).to be_nil
          shelf.call.size
        end
        expect(sizes.first).to be_positive.and eq(sizes.last)
      end
    end

    it "answers the same from parts that are asked elsewhere (seed #{seed})" do
      asked(seed, tail: seed | 16) do |one|
        away = AskedElsewhere.new(one.ledger)
        index = -1
        one.questions.each do |address, questions|
          questions.each do |question|
            answer = described_class.named(address).ask(question, one.workspace(parts: 3)).tap(&:key).over(away)
            expect(difference(plain(answer), whole(seed)[index += 1])).to be_nil, "#{address} #{question}"
          end
        end
      end
    end

    it "opens counts of people into as many people (seed #{seed})" do
      asked(seed) do |one|
        each_answer(one, 1) do |address, question, answer|
          answer.tables.each do |table|
            people = table.columns.each_index.select { |index| table.columns[index].kind == "people" }
            table.rows.product(people).sample(25, random: Random.new(seed)).each do |row, index|
              definition = row.cells[table.columns[index].key] || row.people
              next if definition.nil? || row.values[index].nil?

              size = one.workspace.parts.first.size(one.definition(definition))
              expect(row.values[index]).to eq(size), "#{address} #{question}: #{table.key} #{row.values} #{table.columns[index].key} #{definition}"
            end
          end
        end
      end
    end
  end

  it "opens only what holds people" do
    asked(3) do |one|
      each_answer(one, 1) do |address, _, answer|
        answer.tables.each do |table|
          keys = table.columns.map(&:key)
          expect(keys).to eq(keys.uniq)
          table.rows.each do |row|
            expect(row.values.size).to eq(keys.size), "#{address} #{table.key}"
            expect(row.cells.keys - keys).to be_empty
          end
        end
      end
    end
  end
end
