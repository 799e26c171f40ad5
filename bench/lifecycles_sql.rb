# frozen_string_literal: true

module Bench
  # The questions of {Lifecycles} in hand-written SQL. A person's activity days are put into a table once, with the day
  # that follows each and the first one, which is what every one of them rests on; its making is counted.
  module LifecyclesSQL
    AFTER = (Questions::AS_OF + 1).iso8601
    TO = Questions::AS_OF.iso8601
    RUNS = <<~SQL.freeze
      runs AS (SELECT profile_id, d, COALESCE(LEAD(d) OVER person, '9999-01-01') AS next_d,
                      MIN(d) OVER (PARTITION BY profile_id) AS f
               FROM (SELECT DISTINCT profile_id, DATE(occurred_at) AS d FROM did WHERE occurred_at < '#{AFTER}') AS days
               WINDOW person AS (PARTITION BY profile_id ORDER BY d))
    SQL
    STATE = lambda do |day|
      "CASE WHEN DATEDIFF(#{day}, d) >= 90 THEN 'churned' WHEN DATEDIFF(#{day}, d) >= 30 THEN 'dormant' " \
        "WHEN DATEDIFF(#{day}, f) < 30 THEN 'new' ELSE 'active' END"
    end
    WEEKS = lambda do |count|
      "(SELECT DATE_ADD('#{Lifecycles::LAST - (7 * count)}', INTERVAL 7 * seq DAY) AS day FROM seq_0_to_#{count})"
    end
    MOVED = <<~SQL.freeze
      states AS (SELECT profile_id, day, #{STATE.call("day")} AS state FROM #{WEEKS.call(53)} AS weeks
                 JOIN runs ON d <= day AND day < next_d),
      moved AS (SELECT profile_id, state, LAG(state) OVER (PARTITION BY profile_id ORDER BY day) AS before_it FROM states)
    SQL
    LAPSED = "state IN ('dormant', 'churned') AND before_it IN ('new', 'active')"
    STATEMENTS = {
      "365 days of states" => <<~SQL,
        WITH #{RUNS}, calendar AS (SELECT DATE_ADD('#{Questions::AS_OF - 364}', INTERVAL seq DAY) AS day FROM seq_0_to_364)
        SELECT #{STATE.call("day")} AS state, COUNT(*) FROM calendar JOIN runs ON d <= day AND day < next_d GROUP BY state
      SQL
      "53 weeks of movement" => "WITH #{RUNS}, #{MOVED} SELECT COUNT(*) FROM moved WHERE #{LAPSED}",
      "the same by 20 values" =>
        "WITH #{RUNS}, #{MOVED} SELECT CONCAT('quarter ', LPAD(profile_id % 20 + 1, 2, '0')), " \
        "COUNT(*) FROM moved WHERE #{LAPSED} GROUP BY 1",
      "thresholds" => "WITH #{RUNS} SELECT COUNT(*) FROM runs",
      "revisions" => <<~SQL,
        SELECT SUM(DATEDIFF(day, d) < 30 AND DATEDIFF(day, f) >= 30) FROM (
          SELECT day, profile_id, MIN(DATE(occurred_at)) AS f, MAX(DATE(occurred_at)) AS d FROM #{WEEKS.call(52)} AS weeks
          JOIN did ON occurred_at < day + INTERVAL 1 DAY AND received_at < day + INTERVAL 1 DAY GROUP BY day, profile_id
        ) AS known
      SQL
      "52-week backtest" => <<~SQL
        WITH #{RUNS} SELECT day, COUNT(*) FROM #{WEEKS.call(51)} AS weeks
        JOIN runs ON d + INTERVAL 90 DAY > day - INTERVAL 7 DAY AND d + INTERVAL 90 DAY <= day AND next_d > day GROUP BY day
      SQL
    }.freeze

    module_function

    # @param name [String] of a study
    # @return [String, nil]
    def statement(name) = STATEMENTS[name]
  end
end
