# frozen_string_literal: true

# Runs spec files one after the other in one process, as {SpecQueue} asks for them: a path in each line of
# descriptor 3, and an answer in JSON in each line of descriptor 4.

require "bundler/setup"
require "json"
require "rspec/core"
require "stringio"

RSpec::Core::Runner.disable_autorun!
asked = IO.for_fd(3)
answers = IO.for_fd(4, "w")
[asked, answers].each { |pipe| pipe.close_on_exec = true }
answers.sync = true
# Of this process and of those it has waited for.
spent = -> { Process.times.then { |times| times.utime + times.stime + times.cutime + times.cstime } }
while (path = asked.gets&.chomp)
  before = spent.call
  # The runner sets it the first time only.
  RSpec.configuration.output_stream = text = StringIO.new
  status = RSpec::Core::Runner.run(["--options", File::NULL, *ARGV, path], text, text)
  examples = RSpec.world.all_examples.select { |example| example.execution_result.finished_at }
  slow = examples.max_by(3) { |example| example.execution_result.run_time }
  slow.map! { |example| [example.execution_result.run_time, example.location, example.full_description[0, 100]] }
  answers.puts(JSON.generate({ examples: examples.size, failed: !status.zero?, processor: spent.call - before,
                               slow: slow, text: text.string.scrub }))
  RSpec.clear_examples
  RSpec.world.non_example_failure = RSpec.world.wants_to_quit = false
end
