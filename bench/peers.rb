# frozen_string_literal: true

module Bench
  # Asks Estrel, DuckDB and MariaDB the same questions of the same data in one run, and compares the answers.
  class Peers
    ABOUT = { "conditions" => Conditions, "lifecycles" => Lifecycles, "events" => Events }.freeze

    # @param directory [String] of the ledger
    # @param repeats [Integer] how often DuckDB is asked; the median counts
    # @param limit [Integer, nil] seconds after which MariaDB is stopped; nil: it is not asked
    # @param of [Array<String>] which are asked, of {ABOUT}
    def initialize(directory, repeats:, limit:, of: ABOUT.keys)
      @about = ABOUT.fetch_values(*of)
      @directory = directory
      @duck = Duck.new("#{directory}-duck", repeats)
      @sql = SQL.new("#{directory}-sql", limit) if limit
    end

    # @yieldparam line [String] about one question, or what is being done
    # @return [void]
    def each(&say)
      @duck.during do
        yield("loading DuckDB")
        @duck.load(Estrel::Ledger.new(@directory).current)
        next ask(&say) unless @sql

        @sql.during do
          yield("loading MariaDB")
          @sql.load(Estrel::Ledger.new(@directory).current)
          ask(&say)
        end
      end
    end

    # @param rows [Array<Array>] of a result
    # @return [Object] a number, figures in a row, or numbers by group
    def self.told(rows)
      return rows[0].one? ? rows[0][0] : rows[0] if rows.one?

      rows.all? { |row| row.size == 2 } ? rows.to_h : rows
    end

    # SQL names groups by text, counts by decimals too, and leaves out those that nobody is in.
    def self.verdict(ours, theirs)
      return "" if theirs.nil?

      ours, theirs = [ours, theirs].map { |answer| comparable(answer) }
      ours == theirs ? "same answer" : "ANSWERS DIFFER: #{ours} #{theirs}"
    end

    def self.comparable(answer)
      return answer.flatten.map(&:to_i) if answer.is_a?(Array)
      return answer.to_i unless answer.is_a?(Hash)

      answer.except("never_active").to_h { |group, count| [group.to_s, count.to_i] }.reject { |_, count| count.zero? }
    end
    private_class_method :comparable

    private

    def ask
      @about.each do |questions|
        questions.new(@directory).each do |name, seconds, *, answer|
          next unless DuckSQL.statement(name)

          yield [format("%-34<name>s %8.1<ms>f ms", name: name, ms: seconds * 1000),
                 beside("DuckDB", seconds, answer, *@duck.ask(name)),
                 *(beside("MariaDB", seconds, answer, *@sql.ask(name)) if @sql&.asks?(name))].join("   ").strip
        end
      end
    end

    def beside(database, seconds, answer, theirs, taken)
      stopped = theirs.nil? ? " (stopped)" : ""
      format("%<database>s %8.1<ms>f ms%<stopped>s %5.2<ratio>f of its time %<same>s",
             database: database, ms: taken * 1000, stopped: stopped, ratio: seconds / taken,
             same: Peers.verdict(answer, theirs.is_a?(Array) && theirs[0].is_a?(Array) ? nil : theirs))
    end
  end
end
