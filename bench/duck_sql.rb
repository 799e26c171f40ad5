# frozen_string_literal: true

module Bench
  # Questions of {Conditions} and {Lifecycles} in DuckDB's SQL, each in the fastest form found.
  module DuckSQL
    DAY = ConditionsSQL::DAY
    AFTER = (Questions::AS_OF + 1).iso8601
    # People who did what is asked for within one visit.
    IN_A_VISIT = lambda do |asked|
      <<~SELECT
        SELECT DISTINCT profile_id FROM (
          SELECT profile_id, type, SUM(begins) OVER (PARTITION BY profile_id ORDER BY occurred_at) AS visit FROM (
            SELECT profile_id, type, occurred_at, CASE WHEN occurred_at - LAG(occurred_at) OVER
              (PARTITION BY profile_id ORDER BY occurred_at) <= INTERVAL 30 MINUTE THEN 0 ELSE 1 END AS begins
            FROM did WHERE occurred_at >= '#{DAY.call(89)}'))
        GROUP BY profile_id, visit HAVING #{asked}
      SELECT
    end
    IDS = {
      "attribute only" => "SELECT id AS profile_id FROM people WHERE plan = 'student'",
      "count with a property filter" =>
        "SELECT profile_id FROM did WHERE type = 1 AND occurred_at >= '#{DAY.call(29)}' AND distance_km > 5 " \
        "GROUP BY profile_id HAVING COUNT(*) >= 3",
      "did not" => "SELECT id AS profile_id FROM people WHERE id NOT IN (SELECT profile_id FROM did WHERE type = 4 " \
                   "AND occurred_at >= '#{DAY.call(59)}')",
      "sum of a property" => "SELECT profile_id FROM did WHERE type = 1 AND occurred_at >= '#{DAY.call(89)}' " \
                             "GROUP BY profile_id HAVING SUM(distance_km) >= 50",
      "first time in the last 10 days" => "SELECT profile_id FROM did WHERE type = 4 GROUP BY profile_id " \
                                          "HAVING MIN(occurred_at) >= '#{DAY.call(9)}'",
      "within one visit" => IN_A_VISIT.call("bool_or(type = 1) AND bool_or(type = 2)"),
      "counted within one visit" => IN_A_VISIT.call("bool_or(type = 1) AND COUNT(*) FILTER (type = 2) > 1"),
      "A then B within 7 days" => <<~SELECT,
        SELECT DISTINCT b.profile_id FROM (SELECT profile_id, occurred_at FROM did WHERE type = 1) b
        ASOF JOIN (SELECT profile_id, occurred_at FROM did WHERE type = 2) a
        ON a.profile_id = b.profile_id AND b.occurred_at > a.occurred_at
        WHERE b.occurred_at <= a.occurred_at + INTERVAL 7 DAY
      SELECT
      "A then the very next B" => <<~SELECT,
        SELECT DISTINCT profile_id FROM (
          SELECT profile_id, type, LEAD(type) OVER (PARTITION BY profile_id ORDER BY occurred_at) AS next_type
          FROM did WHERE occurred_at >= '#{DAY.call(89)}') WHERE type = 2 AND next_type = 1
      SELECT
      "rhythm 4 of 4 weeks" =>
        "SELECT profile_id FROM did WHERE type = 1 AND occurred_at >= '#{ConditionsSQL::WEEKS[0]}' AND " \
        "occurred_at < '#{ConditionsSQL::WEEKS[1]}' GROUP BY profile_id " \
        "HAVING COUNT(DISTINCT date_trunc('week', occurred_at)) = 4",
      "was ever" => "SELECT DISTINCT profile_id FROM had WHERE value = 'student'",
      "reachable by e-mail" => "SELECT id AS profile_id FROM people WHERE email AND NOT refused"
    }.freeze
    RUNS = <<~SQL.freeze
      runs AS (SELECT profile_id, d, COALESCE(LEAD(d) OVER person, DATE '9999-01-01') AS next_d,
                      MIN(d) OVER (PARTITION BY profile_id) AS f
               FROM (SELECT DISTINCT profile_id, CAST(occurred_at AS DATE) AS d FROM did WHERE occurred_at < '#{AFTER}')
               WINDOW person AS (PARTITION BY profile_id ORDER BY d))
    SQL
    STATE = "CASE WHEN day - d >= 90 THEN 'churned' WHEN day - d >= 30 THEN 'dormant' " \
            "WHEN day - f < 30 THEN 'new' ELSE 'active' END"
    WEEKS = lambda do |count|
      "(SELECT CAST(DATE '#{Lifecycles::LAST - (7 * count)}' + CAST(7 * n AS INTEGER) AS DATE) AS day " \
        "FROM range(0, #{count + 1}) t(n))"
    end
    # Every state of a person is a stretch of days; one is added where it begins and taken off where it ends, which is
    # many times faster than joining the days with the dates.
    YEAR = <<~SQL.freeze
      WITH #{RUNS},
      stretches AS (
        SELECT 'new' AS state, d AS a, LEAST(next_d, d + 30, f + 30) AS b FROM runs UNION ALL
        SELECT 'active', GREATEST(d, f + 30), LEAST(next_d, d + 30) FROM runs UNION ALL
        SELECT 'dormant', d + 30, LEAST(next_d, d + 90) FROM runs UNION ALL
        SELECT 'churned', d + 90, next_d FROM runs),
      days AS (SELECT state, GREATEST(a, DATE '#{Questions::AS_OF - 364}') AS a, LEAST(b, DATE '#{AFTER}') AS b FROM stretches WHERE a < b)
      SELECT state, CAST(SUM(b - a) AS BIGINT) FROM days WHERE a < b GROUP BY state
    SQL
    STATEMENTS = {
      "365 days of states" => YEAR,
      "53 weeks of movement" => <<~SQL,
        WITH #{RUNS}, states AS (SELECT profile_id, day, #{STATE} AS state FROM #{WEEKS.call(53)}
                                 JOIN runs ON d <= day AND day < next_d),
        moved AS (SELECT state, LAG(state) OVER (PARTITION BY profile_id ORDER BY day) AS before_it FROM states)
        SELECT COUNT(*) FROM moved WHERE state IN ('dormant', 'churned') AND before_it IN ('new', 'active')
      SQL
      "thresholds" => "WITH #{RUNS} SELECT COUNT(*) FROM runs",
      "52-week backtest" => <<~SQL
        WITH #{RUNS} SELECT CAST(day AS VARCHAR), COUNT(*) FROM #{WEEKS.call(51)}
        JOIN runs ON d + 90 > day - 7 AND d + 90 <= day AND next_d > day GROUP BY day
      SQL
    }.freeze

    module_function

    # @param name [String] of a question
    # @return [String, nil] nil where there is no SQL
    def statement(name)
      return counted("attribute only", "count with a property filter", "did not") if name == "three conditions"

      known = STATEMENTS[name] || EventsSQL.statement(name, :duck)
      return known if known

      "SELECT COUNT(*) FROM (#{IDS[name]})" if IDS.key?(name)
    end

    def counted(*names)
      inside = names.map { |name| "id IN (SELECT profile_id FROM (#{IDS.fetch(name)}))" }
      "SELECT COUNT(*) FROM people WHERE #{inside.join(" AND ")}"
    end
  end
end
