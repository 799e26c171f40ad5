# frozen_string_literal: true

module Bench
  # The questions of {Conditions} in hand-written SQL, one statement that gives profile ids each, and what is made of
  # them.
  module ConditionsSQL
    DAY = ->(ago) { (Questions::AS_OF - ago).iso8601 }
    # The last four whole weeks before the as-of date's end.
    WEEKS = (Questions::AS_OF + 1).then { |after| after - (after.cwday - 1) }.then { |after| [after - 28, after] }
    # People who did what is asked for within one visit.
    IN_A_VISIT = lambda do |asked|
      <<~SELECT
        SELECT DISTINCT profile_id FROM (
          SELECT profile_id, visit FROM (
            SELECT profile_id, type, SUM(begins) OVER (PARTITION BY profile_id ORDER BY occurred_at) AS visit FROM (
              SELECT profile_id, type, occurred_at,
                     COALESCE(TIMESTAMPDIFF(MICROSECOND, LAG(occurred_at) OVER (PARTITION BY profile_id ORDER BY occurred_at),
                                            occurred_at) > 1800000000, 1) AS begins
              FROM did WHERE occurred_at >= '#{DAY.call(89)}') AS marked) AS numbered
          GROUP BY profile_id, visit HAVING #{asked}) AS visits
      SELECT
    end
    IDS = {
      "attribute only" => "SELECT id AS profile_id FROM people WHERE plan = 'student'",
      "count with a property filter" =>
        "SELECT profile_id FROM did WHERE type = 1 AND occurred_at >= '#{DAY.call(29)}' " \
        "AND JSON_VALUE(properties, '$.distance_km') > 5 GROUP BY profile_id HAVING COUNT(*) >= 3",
      "did not" => "SELECT id AS profile_id FROM people WHERE id NOT IN (SELECT profile_id FROM did WHERE type = 4 " \
                   "AND occurred_at >= '#{DAY.call(59)}')",
      "sum of a property" => "SELECT profile_id FROM did WHERE type = 1 AND occurred_at >= '#{DAY.call(89)}' " \
                             "GROUP BY profile_id HAVING SUM(JSON_VALUE(properties, '$.distance_km')) >= 50",
      "first time in the last 10 days" => "SELECT profile_id FROM did WHERE type = 4 GROUP BY profile_id " \
                                          "HAVING MIN(occurred_at) >= '#{DAY.call(9)}'",
      "within one visit" => IN_A_VISIT.call("SUM(type = 1) > 0 AND SUM(type = 2) > 0"),
      "counted within one visit" => IN_A_VISIT.call("SUM(type = 1) > 0 AND SUM(type = 2) > 1"),
      "A then B within 7 days" => <<~SELECT,
        SELECT p.id AS profile_id FROM people p WHERE EXISTS (
          SELECT 1 FROM did a JOIN did b ON b.profile_id = a.profile_id AND b.type = 1 AND b.occurred_at > a.occurred_at
                 AND b.occurred_at <= a.occurred_at + INTERVAL 7 DAY
          WHERE a.profile_id = p.id AND a.type = 2)
      SELECT
      "A then the very next B" => <<~SELECT,
        SELECT DISTINCT profile_id FROM (
          SELECT profile_id, type, LEAD(type) OVER (PARTITION BY profile_id ORDER BY occurred_at) AS next_type
          FROM did WHERE occurred_at >= '#{DAY.call(89)}') AS pairs
        WHERE type = 2 AND next_type = 1
      SELECT
      "rhythm 4 of 4 weeks" => "SELECT profile_id FROM did WHERE type = 1 AND occurred_at >= '#{WEEKS[0]}' AND " \
                               "occurred_at < '#{WEEKS[1]}' GROUP BY profile_id " \
                               "HAVING COUNT(DISTINCT YEARWEEK(occurred_at, 3)) = 4",
      "was ever" => "SELECT DISTINCT profile_id FROM had WHERE value = 'student'",
      "entered a state in the last week" => <<~SELECT,
        SELECT DISTINCT profile_id FROM (
          SELECT profile_id, d, COALESCE(LEAD(d) OVER (PARTITION BY profile_id ORDER BY d), '9999-01-01') AS next_d FROM
            (SELECT DISTINCT profile_id, DATE(occurred_at) AS d FROM did) AS days) AS runs
        WHERE d + INTERVAL 30 DAY BETWEEN '#{DAY.call(6)}' AND '#{DAY.call(0)}' AND next_d > d + INTERVAL 30 DAY
      SELECT
      "reachable by e-mail" => "SELECT id AS profile_id FROM people WHERE email AND NOT refused"
    }.freeze

    module_function

    # @param name [String] of a question of {Conditions}
    # @return [String, nil] nil where there is no SQL
    def statement(name)
      case name
      when "three conditions" then counted("attribute only", "count with a property filter", "did not")
      when "twelve conditions" then twelve
      when "overlap of six" then overlap
      when "why, for one person", "why, twelve conditions"
        "SELECT type, occurred_at, properties FROM did WHERE profile_id = (SELECT MAX(id) DIV 4 FROM people) " \
        "ORDER BY occurred_at"
      else "SELECT COUNT(*) FROM (#{IDS.fetch(name)}) AS found"
      end
    end

    def counted(*names)
      "SELECT COUNT(*) FROM people WHERE #{names.map { |name| inside(name) }.join(" AND ")}"
    end

    def inside(name) = "id IN (SELECT profile_id FROM (#{IDS.fetch(name)}) AS x)"

    def twelve
      any = ["attribute only", "was ever", "reachable by e-mail"].map { |name| inside(name) }.join(" OR ")
      all = ["count with a property filter", "sum of a property", "A then B within 7 days", "A then the very next B",
             "rhythm 4 of 4 weeks", "within one visit"].map { |name| inside(name) }
      none = ["first time in the last 10 days", "entered a state in the last week"].map { |name| "NOT #{inside(name)}" }
      "SELECT COUNT(*) FROM people WHERE (#{any}) AND #{[*all, *none].join(" AND ")}"
    end

    def overlap
      bits = Conditions::SIX.each_with_index.map { |name, bit| "(#{inside(name)}) * #{1 << bit}" }.join(" + ")
      "SELECT #{bits} AS code, COUNT(*) FROM people GROUP BY code"
    end
  end
end
