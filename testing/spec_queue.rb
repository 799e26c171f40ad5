# frozen_string_literal: true

require "English"
require "fileutils"

# Spec files and commands that several workers take from a queue, the longest first. One more worker has those of the
# browser, which often waits.
class SpecQueue
  # Seconds by file, of the machine of the CI and of this one.
  DURATIONS = [".ci/durations.json", "var/durations.json"].freeze
  # Minutes of work a suite may take on the machine of the CI.
  BUDGET = { "front end and demo" => 6, "core" => 8, "server" => 12, "security" => 5, "browser" => 12 }.freeze
  # Where the files of a suite begin, the first that fits.
  SUITES = { "server/spec/browser/" => "browser", "server/spec/security/" => "security", "server/" => "server",
             "" => "core" }.freeze
  # What needs the demo, which a command makes.
  DEMO = %r{\A(demo|server/spec/browser)/}
  # Those of a kind are run in one process; a worker takes up another kind when none of its own is left.
  KINDS = { "core" => %w[--default-path core/spec -I core/spec --require spec_helper], "server" => [],
            "browser" => %w[--order defined] }.freeze
  # Threads of Polars beyond one per processor only wait for each other; a nightly run has them all the same.
  ENVIRONMENTS = { "core" => ENV["ESTREL_CHECKS"] == "all" ? {} : { "POLARS_MAX_THREADS" => "1" } }.freeze
  private_constant :DURATIONS, :BUDGET, :SUITES, :DEMO, :KINDS, :ENVIRONMENTS

  Item = Struct.new(:path, :suite, :kind)
  private_constant :Item

  # @param files [Array<String>] from the root
  # @param commands [Array<String>] of the shell, run before the files
  # @param demo [String] the command that makes the demo
  # @param lanes [Integer] how many workers
  def initialize(files, commands:, demo:, seed:, lanes:)
    known = DURATIONS.select { |path| File.file?(path) }
    @durations = known.map { |path| JSON.parse(File.read(path)) }.reduce({}, :merge)
    @demo = demo if files.any? { |path| path.match?(DEMO) }
    @waiting = [@demo, *commands].compact.map { |command| Item.new(command, "front end and demo", nil) }
    @waiting.concat(longest_first(files).map { |path| item(path) })
    @seed = seed
    @lanes = lanes
    @lock = Mutex.new
    @made = ConditionVariable.new
    @results = {}
  end

  # @return [Boolean] whether nothing failed
  def run
    puts "Seed #{@seed}"
    began = now
    threads = Array.new(@lanes) { |number| Thread.new { work(number + 1, "server") { |item| item.kind != "browser" } } }
    threads << Thread.new { work(@lanes + 1, "browser") { |item| item.kind == "browser" } }
    threads.each(&:join)
    keep_durations
    report(now - began)
    @results.values.none? { |result| result["failed"] }
  end

  private

  def now = Process.clock_gettime(Process::CLOCK_MONOTONIC)

  def longest_first(files) = files.sort_by { |path| -@durations.fetch(path, 600) }

  def item(path)
    suite = SUITES.find { |beginning, _| path.start_with?(beginning) }.last
    Item.new(path, suite, suite == "security" ? "server" : suite)
  end

  # The next item of those that the block is true of: a command, else one of the same kind where there is one left, else
  # the first. Waits for the demo.
  def take(kind, &)
    @lock.synchronize do
      loop do
        left = @waiting.select(&)
        possible = @demo ? left.reject { |item| item.path.match?(DEMO) } : left
        item = possible.find { |one| one.kind.nil? } || possible.find { |one| one.kind == kind } || possible.first
        return @waiting.delete(item) if item || left.empty?

        @made.wait(@lock)
      end
    end
  end

  def work(lane, kind, &)
    worker = nil
    while (item = take(kind, &))
      if item.kind && kind != item.kind
        worker&.stop
        worker = nil
      end
      kind = item.kind || kind
      worker ||= Worker.new(lane, ["--seed", @seed.to_s, *KINDS.fetch(kind)], ENVIRONMENTS.fetch(kind, {})) if item.kind
      began = now
      result = item.kind ? worker.run(item.path) : command(item.path)
      worker = nil if result["gone"]
      finish(item, result.merge("seconds" => now - began))
    end
  ensure
    worker&.stop
  end

  def command(text)
    before = Process.times
    output = IO.popen(text, err: %i[child out], &:read)
    processor = %i[cutime cstime].sum { |kind| Process.times.public_send(kind) - before.public_send(kind) }
    { "failed" => !$CHILD_STATUS.success?, "text" => output, "examples" => 0, "slow" => [], "processor" => processor }
  end

  def finish(item, result)
    @lock.synchronize do
      @results[item] = result
      @demo = nil if item.path == @demo
      @made.broadcast
      outcome = result["failed"] ? "FAILED" : "passed"
      puts format("%7.1f s  %7.1f s of processor  %s  %s", result["seconds"], result["processor"], outcome, item.path)
    end
  end

  def keep_durations
    files = @results.select { |item, _| item.kind }
    kept = @durations.merge(files.to_h { |item, result| [item.path, result["seconds"].round(1)] })
    FileUtils.mkdir_p("var")
    File.write(DURATIONS.last, JSON.pretty_generate(kept.sort.to_h))
  end

  def report(seconds)
    puts "", "The slowest examples:"
    slowest = @results.values.flat_map { |result| result["slow"] }.max_by(10, &:first)
    slowest.each { |row| puts format("%7.1f s  %s  %s", *row) }
    puts "", "Each suite, seconds of work and the budget for it:"
    @results.group_by { |item, _| item.suite }.each do |suite, rows|
      spent = rows.sum { |_, result| result["seconds"] }
      examples = rows.sum { |_, result| result["examples"] }
      puts format("%7.0f of %4d  %s, %d examples", spent, 60 * BUDGET.fetch(suite), suite, examples)
    end
    failed = @results.select { |_, result| result["failed"] }
    failed.each { |item, result| puts "", item.path, result["text"] }
    failed = failed.keys.map(&:path)
    ending = failed.empty? ? "nothing failed" : "failed: #{failed.join(", ")}"
    puts format("%.0f s, seed %d; %s", seconds, @seed, ending)
  end

  # A process that runs files of one kind.
  class Worker
    def initialize(lane, options, environment)
      @lane = lane
      log = ["var/specs-#{lane}.log", "w"]
      FileUtils.mkdir_p("var")
      own, asked = IO.pipe
      @answers, answering = IO.pipe
      @asked = asked
      program = ["bundle", "exec", "ruby", File.join(__dir__, "spec_worker.rb"), *options]
      @pid = Process.spawn({ "ESTREL_SUITE" => "test-#{lane}", **environment }, *program,
                           :in => File::NULL, :out => log, :err => %i[child out], 3 => own, 4 => answering)
      [own, answering].each(&:close)
    end

    # @return [Hash] what came of it; "gone" where the process ended instead of answering
    def run(path)
      @asked.puts(path)
      line = @answers.gets
      return JSON.parse(line) if line

      Process.wait(@pid)
      @pid = nil
      said = File.read("var/specs-#{@lane}.log").chars.last(4000).join
      { "failed" => true, "gone" => true, "examples" => 0, "processor" => 0, "slow" => [],
        "text" => "the process ended:\n#{said}" }
    end

    def stop
      @asked.close
      Process.wait(@pid) if @pid
    end
  end
  private_constant :Worker
end
