# frozen_string_literal: true

# Makes requests out of the published description, most of them wrong: values of other types and sizes, fields left out
# or too many, in every operation. The same seed makes the same requests.
class RequestFuzzer
  WRONG = [nil, true, false, 0, -1, 1, 2**31, 2**63, 2**64, 10**40, 1.5, -0.0, 1e308, "", " ", "0", "1", "01", "+1", "x", "null",
           "2026-05-20", "2026-13-45", "0000-00-00", "9999-12-31", "0001-01-01", "customer:1", "' OR 1=1 --", "\u0000", "é\u{1F6B2}\u202e", "=1+1",
           "a" * 300, "z" * 5000, [], [[]], [nil], ["x"] * 50, {}, { "x" => {} }, { "all" => [] }, [1, "x", nil, {}]].freeze
  # What makes a question a real one, so that the wrong part is met by the code behind it.
  LIKELY = { "event" => "ride_ended", "of" => "km", "property" => "km", "attribute" => "plan", "name" => "Name", "as_of" => "2026-05-20", "from" => "2026-05-01",
             "to" => "2026-05-20", "date" => "2026-05-10", "definition" => { "all" => [] }, "time_zone" => "UTC", "email" => "x@estrel.example", "kind" => "email",
             "activity" => ["ride_ended"], "by" => { "attribute" => "plan" }, "audiences" => [1], "metric" => { "event" => "ride_ended" }, "first" => { "event" => "ride_ended" }, "columns" => [{ "take" => "state" }] }.freeze
  VERBS = %w[get post put delete].freeze

  attr_reader :operations

  def initialize(description, seed)
    @description = description
    @random = Random.new(seed)
    @operations = description["paths"].flat_map { |path, item| (item.keys & VERBS).map { |verb| [verb, path, item[verb]] } }
  end

  # @return [Array] verb, path with a query, content type and body
  def request(verb, path, operation)
    where = path.gsub(/\{\w+\}/) { @random.rand(4).zero? ? @random.rand(1..(2**62)).to_s : "1" }
    parameters = (operation["parameters"] || []).map { |node| followed(node) }.select { |node| node["in"] == "query" }
    given = parameters.select { @random.rand(3).zero? }.map { |node| [node["name"], text(value(node["schema"], node["name"], 0))] }
    given << [%w[as_of extra page][@random.rand(3)], "x"] if @random.rand(20).zero?
    query = given.map { |name, value| "#{name}=#{@random.rand(30).zero? ? "%ff%zz" : URI.encode_www_form_component(value)}" }.join("&")
    [verb, query.empty? ? where : "#{where}?#{query}", *body(operation)]
  end

  private

  def body(operation)
    content = operation.dig("requestBody", "content") or return [nil, nil]
    type, media = content.first
    return [type, "\xff\xfe broken \0"] if @random.rand(40).zero?
    return [type, JSON.generate(WRONG.sample(random: @random))] if @random.rand(15).zero?
    return [type, text(WRONG.sample(random: @random))] unless type == "application/json"

    [type, JSON.generate(value(media["schema"], "", 0))]
  end

  def followed(node)
    node = @description.dig(*node["$ref"].delete_prefix("#/").split("/")) while node.key?("$ref")
    node
  end

  # A value for a schema: wrong now and then, on any level.
  def value(schema, name, depth)
    return WRONG.sample(random: @random) if @random.rand(depth.zero? ? 25 : 8).zero? || depth > 6

    schema = followed(schema)
    return LIKELY[name] if LIKELY.key?(name) && @random.rand(3).positive?
    return schema["enum"].sample(random: @random) if schema["enum"]
    return schema["allOf"].map { |part| value(part, name, depth) }.grep(Hash).reduce({}, :merge) if schema["allOf"]
    if schema["oneOf"] || schema["anyOf"]
      return value((schema["oneOf"] || schema["anyOf"]).sample(random: @random), name, depth)
    end

    plain(schema, depth, name)
  end

  def plain(schema, depth, name)
    case Array(schema["type"]).sample(random: @random)
    when "integer" then [0, 1, 2, 7, 30, 90, 365, -1, 10**6].sample(random: @random)
    when "number" then [0, 0.05, 0.5, 1, -3, 1e9].sample(random: @random)
    when "boolean" then [true, false].sample(random: @random)
    when "string" then [LIKELY.fetch(name, "x"), "2026-05-20", "customer"].sample(random: @random)
    when "array" then Array.new(@random.rand(4)) { value(schema["items"] || {}, name, depth + 1) }
    when "null" then nil
    else object(schema, depth)
    end
  end

  def object(schema, depth)
    known = schema["properties"] || {}
    wanted = known.select { |key, _| (schema["required"] || []).include?(key) ? @random.rand(12).positive? : @random.rand(2).zero? }
    made = wanted.to_h { |key, inner| [key, value(inner, key, depth + 1)] }
    made["extra"] = WRONG.sample(random: @random) if @random.rand(15).zero?
    made
  end

  def text(value) = value.is_a?(String) ? value : JSON.generate(value)
end
