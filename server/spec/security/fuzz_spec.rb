# frozen_string_literal: true

require_relative "../server_helper"

RSpec.describe "random requests to every operation" do
  include ApiHelper

  let(:requests) { Checks.all? ? 10_000 : 1_000 }
  # Processor time that an answer may take, seconds.
  let(:most) { 2.0 }

  # What would end the session or the data everything else needs.
  def left_out?(verb, path) = [%w[post /workspace/clear], %w[post /people/{id}/erase], %w[delete /session]].include?([verb, path])

  # Seconds of processor time without collecting garbage, which thousands of earlier requests have left.
  def worked = Process.clock_gettime(Process::CLOCK_PROCESS_CPUTIME_ID) - (GC.stat(:time) / 1000.0)

  # Status, text and cost of an answer.
  def answer(request)
    before = worked
    [*raw(*request), worked - before]
  end

  # The first use of a library costs more than any question. A costly answer is costly again from a ledger of which
  # nothing is remembered.
  def cost_again(request)
    EstrelServer::LedgerBuilding::Builder.new.refresh(rebuild: true)
    answer(request).last
  end

  it "are never answered with a failure of ours, nor costly, and always with a problem that says what" do
    fill
    sign_in
    call(:post, "/audiences", { name: "Everybody", definition: { "all" => [] } })
    seed = Checks.seed
    fuzzer = RequestFuzzer.new(ApiHelper::DESCRIPTION, seed)
    operations = fuzzer.operations.reject { |verb, path, _| left_out?(verb, path) }
    failures = []
    statuses = Hash.new(0)
    requests.times do |index|
      sign_in if (index % 50).zero?
      verb, path, _, body = request = fuzzer.request(*operations[index % operations.size])
      status, text, cost = answer(request)
      cost = [cost, cost_again(request)].min if cost >= most
      statuses[status] += 1
      # A whole sentence, in which nothing is named by its path in the request.
      problem = status < 400 || JSON.parse(text)["detail"].match?(/\A["A-Z](?!.*[a-z]\[\d+\]).{4,}[.!?…]\z/m)
      next if status < 500 && cost < most && problem

      failures << [status, cost.round(2), verb, path[0, 300], body.to_s[0, 300], text[0, 200]]
      break if failures.size > 30
    end
    expect(failures).to eq([]), "seed #{seed}\n#{failures.map(&:inspect).join("\n")}"
    expect(statuses.keys).to include(200, 404, 422)
  end
end
