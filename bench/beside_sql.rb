# frozen_string_literal: true

module Bench
  # Puts the same questions to the same data in MariaDB, and says how long both took.
  module BesideSQL
    private

    def against_sql(found, directory)
      sql = SQL.new("#{directory}-sql", options[:sql_limit])
      sql.during do
        say "loading MariaDB"
        sql.load(Estrel::Ledger.new(directory).current)
        found.each do |name, seconds, ours|
          theirs, sql_seconds = sql.ask(name)
          say format("%-34<name>s %8.1<ms>f ms   SQL %10.1<sql>f ms%<stopped>s   %<ratio>.1f times   %<same>s",
                     name: name, ms: seconds * 1000, sql: sql_seconds * 1000, stopped: theirs ? "" : " (stopped)",
                     ratio: sql_seconds / seconds, same: Peers.verdict(ours, theirs.is_a?(Array) ? nil : theirs))
        end
      end
    end

    def compare(questions, sql, times, memory, directory)
      sql.during do
        say "loading MariaDB"
        sql.load(Estrel::Ledger.new(directory).current)
        times.each do |name, seconds|
          answer, sql_seconds = sql.ask(name)
          say format("%-20<name>s %8.1<ms>f ms   SQL %10.1<sql>f ms%<stopped>s   %<ratio>d times   %<same>s",
                     name: name, ms: seconds * 1000, sql: sql_seconds * 1000, stopped: answer ? "" : " (stopped)",
                     ratio: sql_seconds / seconds, same: Peers.verdict(questions.answer(questions.all[name]), answer))
        end
      end
      say memory
    end
  end
end
