# frozen_string_literal: true

module Bench
  # The questions of {Events} in SQL. What the databases call a day and a week differs.
  module EventsSQL
    DAY = ConditionsSQL::DAY
    FROM = Events::YEAR.iso8601
    MONDAY = (Events::YEAR - (Events::YEAR.cwday - 1)).iso8601
    AFTER = (Questions::AS_OF + 1).iso8601
    NAMES = DataSet::TYPES.keys.each_with_index.map { |name, index| "WHEN #{index + 1} THEN '#{name}'" }.join(" ")
    BEGINS = "CASE WHEN occurred_at <= LAG(occurred_at) OVER (PARTITION BY profile_id ORDER BY occurred_at) + " \
             "INTERVAL 30 MINUTE THEN 0 ELSE 1 END"
    # Visits that began on or after a day.
    VISITS = lambda do |from|
      numbered = "SELECT profile_id, occurred_at, SUM(begins) OVER (PARTITION BY profile_id ORDER BY occurred_at " \
                 "ROWS UNBOUNDED PRECEDING) AS visit FROM (SELECT profile_id, occurred_at, #{BEGINS} AS begins " \
                 "FROM did) AS a"
      "SELECT COUNT(*), COUNT(DISTINCT profile_id), SUM(seconds) FROM (SELECT profile_id, MIN(occurred_at) AS began, " \
        "%<seconds>s AS seconds FROM (#{numbered}) AS b GROUP BY profile_id, visit) AS c " \
        "WHERE began >= '#{from}' AND began < '#{AFTER}'"
    end
    NINETY = Questions::AS_OF - 89
    # Who did what in which visit in order, the 20th standing for all later ones.
    IN_VISITS = "SELECT profile_id, type, CAST(LEAST(20, SUM(begins) OVER (PARTITION BY profile_id ORDER BY " \
                "occurred_at ROWS UNBOUNDED PRECEDING)) AS INTEGER) AS place FROM (SELECT profile_id, type, " \
                "occurred_at, #{BEGINS} AS begins FROM did WHERE occurred_at < '#{AFTER}') AS a".freeze
    LEADS = [1, 2, 3].map do |on|
      "LEAD(type, #{on}) OVER w AS t#{on}, LEAD(occurred_at, #{on}) OVER w AS a#{on}"
    end.join(", ").freeze
    # Every ride with the three events after it, and whether each lies in its visit. Events at the same instant come
    # one after the other here, while Estrel takes each as next.
    FOLLOWED = "SELECT type, t1, t2, t3, a1 <= occurred_at + INTERVAL 30 MINUTE AS f1, a2 <= a1 + INTERVAL 30 MINUTE " \
               "AS f2, a3 <= a2 + INTERVAL 30 MINUTE AS f3 FROM (SELECT type, occurred_at, #{LEADS} FROM did WHERE " \
               "occurred_at >= '#{NINETY.iso8601}' AND occurred_at < '#{AFTER}' WINDOW w AS (PARTITION BY profile_id " \
               "ORDER BY occurred_at)) AS a WHERE type = 1".freeze
    TWO_YEARS = (Questions::AS_OF - 729).then { |day| Date.new(day.year, day.month, 1) }.iso8601
    # People by their first start, and in how many periods they came back after it.
    FIRST_STARTS = lambda do |from, period|
      "WITH s AS (SELECT profile_id, MIN(occurred_at) AS began FROM did WHERE type = 2 GROUP BY profile_id), r AS " \
        "(SELECT profile_id, MAX(occurred_at) AS last FROM did WHERE type = 1 AND occurred_at >= '#{from}' AND " \
        "occurred_at < '#{AFTER}' GROUP BY profile_id, #{period}) SELECT (SELECT COUNT(*) FROM s WHERE began >= " \
        "'#{from}'), (SELECT COUNT(*) FROM s JOIN r ON s.profile_id = r.profile_id AND r.last > s.began " \
        "WHERE s.began >= '#{from}')"
    end
    # From the earliest of each person to the next.
    FIRST = "s1 AS (SELECT profile_id, MIN(occurred_at) AS at FROM did WHERE type = 1 GROUP BY profile_id)"
    EARLIEST = [2, 1, 2, 1, 2, 1, 4].reduce([FIRST]) do |done, type|
      [*done, "s#{done.size + 1} AS (SELECT d.profile_id, MIN(occurred_at) AS at FROM did AS d JOIN s#{done.size} AS " \
              "s ON d.profile_id = s.profile_id AND d.occurred_at > s.at WHERE type = #{type} GROUP BY d.profile_id)"]
    end
    STATEMENTS = {
      "funnel, 8 steps ever" => "WITH #{EARLIEST.join(", ")} SELECT " \
                                "#{(1..8).map { |at| "(SELECT COUNT(*) FROM s#{at})" }.join(", ")}",
      "people per day, a year" =>
        "SELECT SUM(n) FROM (SELECT COUNT(DISTINCT profile_id) AS n FROM did WHERE type = 1 AND occurred_at >= " \
        "'#{FROM}' AND occurred_at < '#{AFTER}' GROUP BY %<day>s) AS days",
      "three events by plan, weeks" =>
        "SELECT SUM(n) FROM (SELECT COUNT(DISTINCT profile_id) AS n FROM did JOIN people ON id = profile_id WHERE " \
        "type IN (1, 2, 4) AND occurred_at >= '#{MONDAY}' AND occurred_at < '#{AFTER}' " \
        "GROUP BY type, plan, %<week>s) AS weeks",
      "ranking, 30 days" =>
        "SELECT CASE type #{NAMES} END, COUNT(DISTINCT profile_id) FROM did WHERE occurred_at >= '#{DAY.call(29)}' " \
        "AND occurred_at < '#{AFTER}' GROUP BY type",
      "retention, 52 weeks" => FIRST_STARTS.call(MONDAY, "%<week>s"),
      "retention, 90 days of 90 days" => FIRST_STARTS.call(NINETY.iso8601, "%<day>s"),
      "value, 24 months" =>
        "SELECT COUNT(DISTINCT f.profile_id), COUNT(p.profile_id) FROM (SELECT profile_id, MIN(occurred_at) AS began " \
        "FROM did WHERE type = 1 GROUP BY profile_id) AS f LEFT JOIN did AS p ON p.profile_id = f.profile_id AND " \
        "p.type = 4 AND p.occurred_at >= f.began AND p.occurred_at < '#{AFTER}' " \
        "WHERE began >= '#{TWO_YEARS}' AND began < '#{AFTER}'",
      "frequency, 30 days" =>
        "SELECT CASE WHEN n >= 21 THEN '21 or more' WHEN n >= 11 THEN '11–20' WHEN n >= 6 THEN '6–10' " \
        "ELSE CAST(n AS CHAR) END AS bucket, COUNT(*) FROM (SELECT COUNT(*) AS n FROM did WHERE type = 1 AND " \
        "occurred_at >= '#{DAY.call(29)}' AND occurred_at < '#{AFTER}' GROUP BY profile_id) AS counts GROUP BY bucket",
      "visits, 90 days" => VISITS.call(Date.new(NINETY.year, NINETY.month, 1).iso8601),
      "visits, all" => VISITS.call("2000-01-01"),
      "next events, 3 on, 90 days" =>
        "WITH ways AS (#{FOLLOWED}) SELECT CONCAT(t1, ''), COUNT(*) FROM ways WHERE f1 GROUP BY t1 UNION ALL " \
        "SELECT CONCAT(t1, '-', t2), COUNT(*) FROM ways WHERE f1 AND f2 GROUP BY t1, t2 UNION ALL " \
        "SELECT CONCAT(t1, '-', t2, '-', t3), COUNT(*) FROM ways WHERE f1 AND f2 AND f3 GROUP BY t1, t2, t3",
      "experience, 20 visits" =>
        "WITH v AS (#{IN_VISITS}), r AS (SELECT profile_id, MAX(place) AS most FROM v GROUP BY profile_id) " \
        "SELECT CONCAT('times ', place), COUNT(*) FROM v WHERE type = 1 GROUP BY place UNION ALL " \
        "SELECT CONCAT('reached ', k), COUNT(*) FROM r JOIN (SELECT DISTINCT place AS k FROM v) AS ks ON most >= k " \
        "GROUP BY k"
    }.freeze
    # What only DuckDB is asked, since looking back is a join of its own there.
    AFTER_STEP = lambda do |type, before|
      "SELECT b.profile_id, b.occurred_at, a.start FROM (SELECT profile_id, occurred_at FROM did WHERE " \
        "type = #{type} AND occurred_at >= '#{NINETY.iso8601}' AND occurred_at < '#{AFTER}') AS b ASOF JOIN " \
        "(#{before}) AS a ON " \
        "b.profile_id = a.profile_id AND b.occurred_at > a.occurred_at WHERE b.occurred_at <= a.start + INTERVAL 14 DAY"
    end
    FIRST_STEP = "SELECT profile_id, occurred_at, occurred_at AS start FROM did WHERE type = 1 AND occurred_at >= " \
                 "'#{NINETY.iso8601}' AND occurred_at < '#{AFTER}'".freeze
    STEPS = [2, 3, 4].reduce([FIRST_STEP]) { |done, type| [*done, AFTER_STEP.call(type, "FROM s#{done.size}")] }
    IN_WEEKS = "FROM did WHERE occurred_at >= '#{MONDAY}' AND occurred_at < '#{AFTER}' AND type = %d " \
               "GROUP BY profile_id, date_trunc('week', occurred_at)".freeze
    DUCK_ONLY = {
      "retention, 52 weeks, every week's first" =>
        "WITH s AS (SELECT profile_id, MIN(occurred_at) AS began #{format(IN_WEEKS, 2)}), r AS (SELECT profile_id, " \
        "MAX(occurred_at) AS last #{format(IN_WEEKS, 1)}) SELECT (SELECT COUNT(*) FROM s), (SELECT COUNT(*) FROM s " \
        "JOIN r ON s.profile_id = r.profile_id AND r.last > s.began)",
      "funnel, 4 steps in 14 days" =>
        "WITH #{STEPS.each_with_index.map { |step, at| "s#{at + 1} AS (#{step})" }.join(", ")} SELECT " \
        "#{(1..4).map { |at| "(SELECT COUNT(DISTINCT profile_id) FROM s#{at})" }.join(", ")}"
    }.freeze
    PARTS = { duck: { day: "CAST(occurred_at AS DATE)", week: "date_trunc('week', occurred_at)",
                      seconds: "CAST(epoch(MAX(occurred_at) - MIN(occurred_at)) AS BIGINT)" },
              maria: { day: "DATE(occurred_at)", week: "YEARWEEK(occurred_at, 3)",
                       seconds: "TIMESTAMPDIFF(SECOND, MIN(occurred_at), MAX(occurred_at))" } }.freeze

    module_function

    # @param name [String]
    # @param database [Symbol] :duck or :maria
    # @return [String, nil] nil where there is none
    def statement(name, database)
      return DUCK_ONLY[name] if database == :duck && DUCK_ONLY.key?(name)

      STATEMENTS.key?(name) ? format(STATEMENTS[name], **PARTS.fetch(database)) : nil
    end
  end
end
