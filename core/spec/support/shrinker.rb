# frozen_string_literal: true

# Makes a failing case small: leaves out people, what they did, and parts of the definition, as long as it still fails.
class Shrinker
  # @param people [Hash] as {Population} takes them
  # @param json [Hash] a definition
  # @param fails [#call] given people and a definition, tells whether the case fails
  def initialize(people, json, fails)
    @people = people
    @json = json
    @fails = fails
  end

  # @return [Array(Hash, Hash)] people and definition; nothing can be left out of them without passing
  def smallest
    loop do
      smaller = candidates.find { |people, json| fails?(people, json) }
      return [@people, @json] unless smaller

      @people, @json = smaller
    end
  end

  private

  # What cannot be evaluated at all, such as a condition without its event type, does not fail in the way looked for.
  def fails?(people, json)
    @fails.call(people, json)
  rescue Estrel::Error
    false
  end

  def candidates
    fewer_people.map { |people| [people, @json] }.chain(simpler(@json).map { |json| [@people, json] },
                                                        less_done.map { |people| [people, @json] })
  end

  def fewer_people = @people.keys.lazy.map { |id| @people.except(id) }

  def less_done
    fewer = @people.lazy.flat_map do |id, person|
      %i[events attributes reach].flat_map do |list|
        (person[list] || []).each_index.map do |index|
          rows = person[list].each_with_index.reject { |_, other| other == index }.map(&:first)
          @people.merge(id => person.merge(list => rows))
        end
      end
    end
    fewer.reject { |people| people.values.any? { |person| person[:events].empty? && person[:attributes].empty? } }
  end

  def simpler(node)
    case node
    when Hash
      parts = node.values.grep(Hash) + node.values.grep(Array).flatten.grep(Hash)
      parts + node.keys.map { |key| node.except(key) } +
        node.flat_map { |key, value| simpler(value).map { |smaller| node.merge(key => smaller) } }
    when Array
      node.each_index.map { |index| node[0...index] + node[(index + 1)..] } +
        node.each_index.flat_map { |index| simpler(node[index]).map { |smaller| node[0...index] + [smaller] + node[(index + 1)..] } }
    else []
    end
  end
end
