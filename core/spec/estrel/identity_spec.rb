# frozen_string_literal: true

RSpec.describe Estrel::Identity do
  def party(identifier, profile: nil, customer: nil, type: nil)
    described_class::Party.new(identifier: identifier, profile: profile, customer: customer, type: type)
  end

  it "decides every case by the rule" do
    stranger = party("visitor:v")
    visitor = party("visitor:v", profile: 1, type: "visitor")
    contact = party("email:a@b.example", profile: 2, type: "contact")
    customer = party("customer:1", profile: 3, customer: "customer:1", type: "customer")
    device = party("visitor:w", profile: 3, customer: "customer:1", type: "customer")
    other = party("customer:2", profile: 4, customer: "customer:2", type: "customer")
    { [stranger, party("customer:9")] => :made, [visitor, party("customer:9")] => :attached, [stranger, customer] => :attached,
      [visitor, customer] => :merged, [visitor, contact] => :merged, [customer, device] => :same, [device, other] => :moved,
      [device, party("customer:9")] => :moved, [customer, other] => :refused, [customer, party("customer:9")] => :refused,
      [contact, contact] => :refused }.each do |(one, two), action|
      expect([described_class.decide(one, two), described_class.decide(two, one)].map(&:action)).to eq([action, action])
    end
    expect(described_class.decide(contact, visitor)).to have_attributes(from: 1, into: 2)
    expect(described_class.decide(other, device)).to have_attributes(from: 3, into: 4, identifier: "visitor:w")
  end
end
