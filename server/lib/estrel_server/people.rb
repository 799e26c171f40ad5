# frozen_string_literal: true

module EstrelServer
  # Lists people as of a date, and tells what is known of one of them.
  class People
    TYPES = %w[visitor contact customer].freeze
    PAGE_LIMIT = 200
    # People that are described at once where all are wanted.
    SLICE = 2_000
    ORDERED = "ordered_by"
    MOST_COLUMNS = 8
    private_constant :SLICE, :ORDERED, :MOST_COLUMNS

    # What else can be shown of everybody: attributes, figures of events, chances. Identifiers stand in the list
    # anyway, masked.
    #
    # @param list [Array<Hash>, nil] columns as exports have them; at most eight are taken
    # @return [Array<Estrel::Exports::Column>]
    # @raise [Error] for what is no such column
    def self.columns(list)
      raise Error, "the columns must be a list" unless list.nil? || list.is_a?(Array)

      list.to_a.first(MOST_COLUMNS).map do |json|
        column = json.is_a?(Hash) && Estrel::Exports::Column.parse(json)
        if !column || column.take.start_with?("identifier", "address")
          raise Error, "only attributes, event figures and propensities can be columns"
        end

        column
      end
    end

    # @param question [Question]
    # @param compared [Array<Estrel::Audience::Definition>] audiences compared by: of everybody listed it is told in
    #   which
    # @param columns [Array<Estrel::Exports::Column>] what else is shown of everybody
    def initialize(question, compared: [], columns: [])
      @question = question
      @compared = compared
      @columns = columns
    end

    # One page of people first seen by the as-of date.
    #
    # @param state [String, nil]
    # @param profile_type [String, nil] of {TYPES}
    # @param definitions [Array<Estrel::Audience::Definition>] all of which must fit
    # @param search [String, nil] part of an identifier's beginning
    # @param held_by [Estrel::Exports::Holdout, nil] only whom it holds
    # @param order [String, Integer] of {Estrel::Roster::ORDERS}, or the position of a column
    # @param page [Integer] from 1
    # @param per_page [Integer]
    # @return [Hash] total and rows
    def page(order: "last_day", page: 1, per_page: 50, **filters)
      people = chosen(**filters)
      if order.is_a?(Integer)
        people = people.hstack(values(people, [@columns[order]], [ORDERED]))
        order = ORDERED
      end
      { total: people.height, rows: describe(Estrel::Roster.page(people, order: order, page: page, per_page: per_page)) }
    end

    # All of them, in the order of their numbers.
    #
    # @param filters [Hash] as in {#page}
    # @yieldparam rows [Array<Hash>] some of them at a time
    # @return [void]
    def each_slice(**filters)
      people = chosen(**filters).sort("profile_id")
      (0...people.height).step(SLICE) { |from| yield describe(people.slice(from, SLICE)) }
    end

    # One page of some people, by number.
    #
    # @param ids [Polars::Series] profile ids
    # @param page [Integer] from 1
    # @param per_page [Integer]
    # @return [Hash] total and rows
    def page_of(ids, page: 1, per_page: 50)
      shown = ids.sort.slice((page - 1) * per_page, per_page).to_a
      { total: ids.len, rows: describe_ids(shown) }
    end

    # @param ids [Array<Integer>]
    # @return [Array<Hash>] in the order of ids
    def describe_ids(ids)
      by_id = describe(roster.where(among: [ids])).to_h { |row| [row[:id], row] }
      ids.filter_map { |id| by_id[id] }
    end

    private

    def chosen(state: nil, profile_type: nil, definitions: [], search: nil, held_by: nil)
      among = [*definitions.map { |definition| members(definition) }, *(search && [found(search)])]
      people = roster.where(state: state, profile_type: profile_type, among: among)
      held_by ? people.filter(held_by.mask(people["profile_id"])) : people
    end

    # @return [Polars::DataFrame] the columns of some people, called as said
    def values(people, columns, names)
      given = columns_of(columns).frame(people.select(["profile_id"]))
      Polars::DataFrame.new(given.columns.zip(names).map { |column, name| given[column].alias(name) })
    end

    def columns_of(columns)
      Estrel::Exports::Columns.new(@question.whole, columns, chances: ChanceModel.of(@question))
    end

    def told(people)
      return [] if @columns.empty?

      values(people, @columns, @columns.each_index.map { |index| "c#{index}" }).rows
    end

    def members(definition) = @question.evaluator.members(definition)

    # Identifiers are looked up where they have an index.
    def found(search)
      kind, value = search.split(":", 2)
      scope = Identifier.joins(:identifier_kind)
      by_value = ->(text) { scope.where("value LIKE ?", "#{Identifier.sanitize_sql_like(text)}%") }
      rows = by_value.call(search)
      rows = rows.or(by_value.call(value).where(identifier_kinds: { name: kind })) if value
      Polars::Series.new("profile_id", rows.limit(5000).pluck(:profile_id), dtype: Polars::Int64)
    end

    def roster = @roster ||= Estrel::Roster.new(@question.whole, @question.rule_set)

    def describe(frame)
      identifiers = identifiers(frame["profile_id"].to_a)
      inside = inside(frame["profile_id"])
      told = told(frame)
      frame.rows(named: true).each_with_index.map do |row, index|
        { id: row["profile_id"], profile_type: row["profile_type"], state: row["state"],
          reactivated: row["reactivated"], inactive_days: row["inactive_days"], first_day: date(row["first_day"]),
          last_day: date(row["last_day"]),
          identifiers: identifiers[row["profile_id"]] || [], in: inside[index], values: told[index].to_a }
      end
    end

    # For each of some people the positions of the comparison's audiences they are in.
    def inside(ids)
      masks = @compared.map { |definition| ids.is_in(members(definition)).to_a }
      (0...ids.len).map { |index| masks.each_index.select { |position| masks[position][index] } }
    end

    def identifiers(ids)
      rows = Identifier.joins(:identifier_kind).where(profile_id: ids).order(:id)
                       .pluck(:profile_id, "identifier_kinds.name", :value)
      rows.group_by(&:shift).transform_values do |pairs|
        pairs.map { |kind, value| { kind: kind, value: Access::Disclosure.value(value) } }
      end
    end

    def date(number) = number && Estrel::Calendar.date(number)
  end
end
