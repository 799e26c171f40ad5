# frozen_string_literal: true

require "json"
require "net/http"
require "uri"

# Speaks to Estrel's API from a program: one file without dependencies, to be copied along.
#
#   estrel = EstrelClient.new("https://estrel.example", ENV.fetch("ESTREL_TOKEN"))
#   estrel.ask("trends", series: [{ event: "ride_ended" }], step: "week")["finding"]
#   run = estrel.carry_out(3)
#   File.open(run["file_name"], "wb") { |file| estrel.download("/runs/#{run["id"]}/file") { |part| file << part } }
#
# Every address and what it takes and gives is in the description, `bin/estrel describe`.
class EstrelClient
  # An answer that says no: its HTTP status, why, and, where there are several faults, each with its place.
  class Refused < StandardError
    # @return [Integer]
    attr_reader :status
    # @return [Array<Hash{String => String}>] `place`, `message`
    attr_reader :errors

    def initialize(status, detail, errors)
      @status = status
      @errors = errors
      super(detail)
    end
  end

  # Raised where Estrel cannot be reached, also after some attempts.
  class Away < StandardError; end

  # Raised where a run did not end as it should.
  class NotDone < StandardError; end

  VERBS = { get: Net::HTTP::Get, post: Net::HTTP::Post, put: Net::HTTP::Put, delete: Net::HTTP::Delete }.freeze
  FAILURES = [SystemCallError, SocketError, IOError, Timeout::Error, OpenSSL::SSL::SSLError].freeze
  # What may be different a moment later.
  AGAIN = [429, 502, 503, 504].freeze
  UNDER_WAY = %w[queued running].freeze
  private_constant :VERBS, :FAILURES, :AGAIN, :UNDER_WAY

  # @param address [String] where people reach Estrel
  # @param token [String] of an account
  # @param timeout [Integer] seconds to wait for an answer
  # @param attempts [Integer] how often a question is put that finds nobody; only what changes nothing is put again
  def initialize(address, token, timeout: 60, attempts: 4)
    @base = URI("#{address.chomp("/")}/api")
    @token = token
    @timeout = timeout
    @attempts = attempts
  end

  # @param path [String] "/audiences/3"
  # @param query [Hash]
  # @return [Hash] the answer, plain JSON
  # @raise [Refused, Away]
  def get(path, **query) = json(:get, query.empty? ? path : "#{path}?#{URI.encode_www_form(query)}")

  # @param path [String]
  # @param body [Hash]
  # @return [Hash]
  # @raise [Refused, Away]
  def post(path, body = {}) = json(:post, path, body)

  # @param path [String]
  # @param body [Hash]
  # @return [Hash]
  # @raise [Refused, Away]
  def put(path, body) = json(:put, path, body)

  # @param path [String]
  # @return [Hash]
  # @raise [Refused, Away]
  def delete(path) = json(:delete, path)

  # @param analysis [String] "trends"
  # @param question [Hash]
  # @return [Hash] `finding`, `caveats`, `picture`, `tables`
  # @raise [Refused, Away]
  def ask(analysis, **question) = json(:post, "/analyses/#{analysis}", question, again: true)

  # Everybody who fits, page by page.
  #
  # @param query [Hash] as `GET /people` takes it: `definition`, `as_of`, `order`
  # @return [Enumerator<Hash>]
  # @raise [Refused, Away]
  def people(**query)
    Enumerator.new do |rows|
      (1..).each do |page|
        found = get("/people", **query, page: page)
        found["rows"].each { |row| rows << row }
        break if page * found["per_page"] >= found["total"]
      end
    end
  end

  # Starts a run of an export and waits until it has ended.
  #
  # @param export [Integer]
  # @param as_of [String, nil] a date; the newest day, unless one is named
  # @param patience [Integer] seconds
  # @return [Hash] the run
  # @raise [NotDone] where it failed, waits for a person, or takes longer
  # @raise [Refused, Away]
  def carry_out(export, as_of: nil, patience: 3600, pause: 1)
    run = post("/exports/#{export}/runs", { as_of: as_of }.compact)
    ends = Process.clock_gettime(Process::CLOCK_MONOTONIC) + patience
    while UNDER_WAY.include?(run["state"])
      raise NotDone, "run #{run["id"]} has not ended" if Process.clock_gettime(Process::CLOCK_MONOTONIC) > ends

      sleep(pause)
      run = get("/runs/#{run["id"]}")
    end
    return run if run["state"] == "done"

    raise NotDone, "run #{run["id"]} is #{run["state"]}#{": #{run["error"]}" if run["error"]}"
  end

  # @param path [String] "/runs/7/file", "/people.csv?as_of=2026-11-01"
  # @yieldparam part [String] of the file
  # @return [void]
  # @raise [Refused, Away]
  def download(path, &)
    start do |http|
      http.request(request(:get, path)) do |answer|
        answer.is_a?(Net::HTTPOK) ? answer.read_body(&) : refuse(answer, answer.read_body)
      end
    end
  rescue *FAILURES => e
    raise Away, "Estrel cannot be reached: #{e.message}"
  end

  private

  def json(verb, path, body = nil, again: verb == :get)
    answer = attempt(again ? @attempts : 1) { start { |http| http.request(request(verb, path, body)) } }
    return JSON.parse(answer.body) if answer.is_a?(Net::HTTPSuccess)

    refuse(answer, answer.body)
  end

  def refuse(answer, body)
    told = JSON.parse(body)
    raise Refused.new(answer.code.to_i, told["detail"], told["errors"] || [])
  rescue JSON::ParserError
    raise Refused.new(answer.code.to_i, "the answer is no JSON", [])
  end

  # After pauses that grow, or that are asked for.
  def attempt(left, pause = 0.5, &)
    answer = yield
    return answer unless AGAIN.include?(answer.code.to_i) && left > 1

    sleep([answer["retry-after"].to_f, pause].max)
    attempt(left - 1, pause * 2, &)
  rescue *FAILURES => e
    raise Away, "Estrel cannot be reached: #{e.message}" if left <= 1

    sleep(pause)
    attempt(left - 1, pause * 2, &)
  end

  def start(&)
    how = { use_ssl: @base.scheme == "https", open_timeout: 5, read_timeout: @timeout }
    Net::HTTP.start(@base.host, @base.port, **how, &)
  end

  def request(verb, path, body = nil)
    headers = { "authorization" => "Bearer #{@token}", "accept" => "application/json", "user-agent" => "estrel-client" }
    VERBS.fetch(verb).new("#{@base.path}#{path}", headers).tap do |request|
      next unless body

      request["content-type"] = "application/json"
      request.body = JSON.generate(body)
    end
  end
end
