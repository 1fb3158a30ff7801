// Package vehicle holds the conversion sheet: what this vehicle is, what was
// fitted to it, and what was measured on it. Every figure and every fact says
// where it comes from. Lengths in mm with the vehicle upright; left and right
// are the rider's.
package vehicle

import (
	"iter"
	"maps"
	"reflect"
	"slices"

	"jadegate/core/harness"
	"jadegate/core/limits"
	"jadegate/core/quantity"
	"jadegate/core/say"
	"jadegate/core/schema"
)

// Format names the document; a newer major version is refused.
const Format = "jadegate.sheet/1"

// Sheet is the conversion sheet.
type Sheet struct {
	Format      string          `json:"format" preset:"jadegate.sheet/1"`
	Name        string          `json:"name" doc:"what the workshop calls it"`
	Kind        string          `json:"kind" words:"bicycle,delta,tadpole" preset:"bicycle" doc:"two wheels, or three: one in front (delta) or two (tadpole)"`
	FrameNumber quantity.Fact   `json:"frame_number" class:"own" required:"false" doc:"frame number"`
	Colour      string          `json:"colour" required:"false" doc:"frame colour, to tell similar vehicles apart"`
	OdometerKm  quantity.Figure `json:"odometer_km" from:"seen,stated,measured,counted" required:"false" unit:"km" min:"0" max:"1000000" doc:"odometer"`
	Sister      string          `json:"sister" required:"false" doc:"a similar vehicle here whose parts could be mixed up"`
	Seat        string          `json:"seat" words:"upright,recumbent" required:"false" doc:"seating: upright over the pedals, or recumbent behind them"`
	Cargo       []CargoBox      `json:"cargo"`
	Claims      Claims          `json:"claims" preset:"{}"`
	Use         Use             `json:"use" preset:"{}"`
	Geometry    Geometry        `json:"geometry" preset:"{}"`
	Front       Wheel           `json:"front" preset:"{}"`
	Rear        Wheel           `json:"rear" preset:"{}"`
	Fork        Fork            `json:"fork" preset:"{}"`
	Drives      []Drive         `json:"drives"`
	Packs       []Pack          `json:"packs"`
	Levers      Levers          `json:"levers" preset:"{}"`
	Pair        Pair            `json:"pair" preset:"{}"`
	Throttle    quantity.Fact   `json:"throttle" words:"none,thumb,twist" doc:"throttle fitted" required:"false"`
	BackPedal   quantity.Fact   `json:"back_pedal" required:"false" words:"cuts,drives_on" doc:"coaster brake pulled five times under throttle drive: it cuts the motor, or drives on"`
	Restricted  *bool           `json:"restricted" doc:"power or speed limited by a loop, a setting or an agreement"`
	PedalSensor *bool           `json:"pedal_sensor" doc:"a pedal sensor is fitted"`
	StartRule   quantity.Fact   `json:"start_rule" required:"false" words:"none,pedals_first,rolling" doc:"what must happen before the motor drives: nothing, the pedals turning, or the wheel rolling"`
	HeadStop    quantity.Fact   `json:"head_stop" required:"false" words:"own_stop,none" doc:"what ends the steering: the vehicle's own stop, or none"`
	Suspended   *bool           `json:"suspended" doc:"a suspension travels, at the fork or behind"`
	MixedPlugs  *bool           `json:"mixed_plugs" doc:"plugs of different makes, or cut and rejoined"`
	Apart       Apart           `json:"apart" preset:"{}"`
	Altered     []Altered       `json:"altered" doc:"places of frame and fork that were welded, brazed or drilled by somebody else than the maker"`
	Combiners   []Combiner      `json:"combiners" doc:"combiners, the first one as the leads call it, the others by number"`
	Throttles   []Throttle      `json:"throttles" doc:"throttles, where there are several"`
	Chargers    []Charger       `json:"chargers" doc:"chargers, where there are several"`
	Outlets     []Outlet        `json:"outlets" doc:"outlets for lamps and accessories that a pack or a controller feeds"`
	Settings    []Setting       `json:"settings" doc:"settings of controller and display, as found and as left"`
	Wireless    quantity.Fact   `json:"wireless" required:"false" words:"none,off,code,open,open_speed" doc:"settings by radio: none, switched off, behind a code of the shop, open to a strange telephone, or open to one for speed or braking"`
	SensorOut   quantity.Fact   `json:"sensor_out" required:"false" words:"none,stops,limited,past_limit" doc:"speed sensor unplugged once on the stand: the motor stops, stays limited, or drives past the limit"`
	ThrottleOut quantity.Fact   `json:"throttle_out" required:"false" words:"runs,makers_plug,setting,covered" doc:"what lets the kit run with its throttle unplugged: it just runs, the maker's plug, a setting, or the throttle stays behind a cover that needs a tool"`
	Leads       []Lead          `json:"leads"`
	Lights      []Light         `json:"lights" doc:"lamps that a pack or a controller feeds"`
	Bolts       []Bolt          `json:"bolts"`
	Cranks      Cranks          `json:"cranks" preset:"{}"`
	Stem        quantity.Fact   `json:"stem" words:"threadless,quill" required:"false" doc:"stem clamped on the steerer, or a quill"`
	ShiftSensor quantity.Fact   `json:"shift_sensor" words:"none,own_port,brake_port" required:"false" doc:"shift sensor, and the port it is plugged into"`
	Parking     quantity.Fact   `json:"parking" words:"none,lever_lock,lever,strap" required:"false" doc:"parking brake: a lock on a brake lever, a lever of its own, a strap round a lever"`
	Found       Found           `json:"found" preset:"{}"`
	Equipment   []Equipment     `json:"equipment" doc:"what makes a class, seen one by one"`
	Papers      []limits.Paper  `json:"papers" doc:"papers on file; absent: not asked, an empty list: none"`
	Makeshifts  []Makeshift     `json:"makeshifts"`
	WordLimits  []WordLimit     `json:"word_limits"`
	// Restrictions hold the vehicle below what it could do.
	Restrictions []Restriction `json:"restrictions"`
	Given        schema.Raw    `json:"given" doc:"readings that calculations take, by their own names, each with its source"`
}

// Found are figures of what is looked at, where somebody measured it as well.
type Found struct {
	DripMm         quantity.Figure `json:"drip_mm" required:"false" unit:"mm" min:"-200" max:"500" doc:"drip loop of the motor lead: lowest point below its entry into the axle"`
	SlackLeftMm    quantity.Figure `json:"slack_left_mm" required:"false" unit:"mm" min:"-100" max:"500" doc:"cable slack at full lock to the left"`
	SlackRightMm   quantity.Figure `json:"slack_right_mm" required:"false" unit:"mm" min:"-100" max:"500" doc:"cable slack at full lock to the right"`
	CrankWireMm    quantity.Figure `json:"crank_wire_mm" required:"false" unit:"mm" min:"0" max:"200" doc:"clearance, motor lead to crank, at its nearest"`
	InsulationMohm quantity.Figure `json:"insulation_mohm" repeat:"sample" required:"false" unit:"MΩ" min:"0" max:"100000" doc:"resistance from either pole to the frame, the lower of the two"`
	PoleFrameV     quantity.Figure `json:"pole_frame_v" required:"false" unit:"V" min:"0" max:"200" doc:"voltage from either pole to the frame, the higher of the two"`
	ToeMm          quantity.Figure `json:"toe_mm" required:"false" unit:"mm" min:"-100" max:"100" doc:"toe over the wheels: behind less in front, at axle height"`
	PinsV          quantity.Figure `json:"pins_v" required:"false" unit:"V" min:"0" max:"200" doc:"voltage across the vehicle's own pins, pack out, the highest found"`
	TiltDeg        quantity.Figure `json:"tilt_deg" required:"false" unit:"°" min:"3" max:"75" doc:"tilt table, rider seated: angle at which the first uphill wheel lifts, the lower of both sides"`
	ChargerV       quantity.Figure `json:"charger_v" from:"label,measured" required:"false" unit:"V" min:"1" max:"300" doc:"charger's final voltage"`
	ChargerA       quantity.Figure `json:"charger_a" from:"label,measured" repeat:"sample" required:"false" unit:"A" min:"0.1" max:"100" doc:"charger's current"`
	ChargerNumber  quantity.Fact   `json:"charger_number" class:"own" from:"label" required:"false" doc:"number on the charger"`
	ControllerC    quantity.Figure `json:"controller_c" required:"false" unit:"°C" min:"-20" max:"250" doc:"controller temperature after the ride"`
	MotorC         quantity.Figure `json:"motor_c" required:"false" unit:"°C" min:"-20" max:"250" doc:"motor temperature after the ride"`
	PlugC          quantity.Figure `json:"plug_c" required:"false" unit:"°C" min:"-20" max:"250" doc:"warmest plug's temperature after the ride"`
	LiningMm       quantity.Figure `json:"lining_mm" required:"false" unit:"mm" min:"0" max:"20" doc:"thinnest brake lining"`
	DiscMm         quantity.Figure `json:"disc_mm" required:"false" unit:"mm" min:"0.2" max:"6" doc:"brake disc at its thinnest"`
	LockN          quantity.Figure `json:"lock_n" required:"false" unit:"N" min:"0" max:"500" doc:"force at the lever at which a wheel locks, pushed by hand, nobody on it"`
	BarNm          quantity.Figure `json:"bar_nm" required:"false" unit:"N·m" min:"0" max:"100" doc:"torque by which the bar was turned against a held wheel without slipping"`
	BarKg          quantity.Figure `json:"bar_kg" required:"false" unit:"kg" min:"0" max:"50" doc:"box or basket on the handlebar, laden"`
	BarMarkKg      quantity.Figure `json:"bar_mark_kg" from:"label" required:"false" unit:"kg" min:"0" max:"50" doc:"load marked on the handlebar's bracket"`
	ForkMm         quantity.Figure `json:"fork_mm" required:"false" unit:"mm" min:"-300" max:"300" doc:"exchanged fork: its length less the old one's"`
	ForkOffsetMm   quantity.Figure `json:"fork_offset_mm" required:"false" unit:"mm" min:"-100" max:"100" doc:"exchanged fork: its offset less the old one's"`
	GroundMm       quantity.Figure `json:"ground_mm" required:"false" unit:"mm" min:"0" max:"500" doc:"lowest point above the ground, rider seated"`
	ReachMm        quantity.Figure `json:"reach_mm" required:"false" unit:"mm" min:"0" max:"100" doc:"reach of the cranks from the middle, left against right"`
	CaseMm         quantity.Figure `json:"case_mm" required:"false" unit:"mm" min:"0" max:"50" doc:"caliper body to motor case"`
	HeadsMm        quantity.Figure `json:"heads_mm" required:"false" unit:"mm" min:"0" max:"50" doc:"disc screw heads to fork or caliper"`
	TravelTyreMm   quantity.Figure `json:"travel_tyre_mm" required:"false" unit:"mm" min:"0" max:"300" doc:"lead to tyre and spokes at full suspension travel"`
	TravelOtherMm  quantity.Figure `json:"travel_other_mm" required:"false" unit:"mm" min:"0" max:"300" doc:"lead to what else moves at full suspension travel"`
	SpacerOffMm    quantity.Figure `json:"spacer_off_mm" required:"false" unit:"mm" min:"0" max:"10" doc:"bore of a spacer drilled at home, off its middle"`
	CoverN         quantity.Figure `json:"cover_n" required:"false" unit:"N" min:"0" max:"1000" doc:"force on a covered throttle that did not move it"`
	PackingMm      quantity.Figure `json:"packing_mm" required:"false" unit:"mm" min:"0" max:"30" doc:"soft packing under a pack's clamp that is not its own lining"`
	PackC          quantity.Figure `json:"pack_c" required:"false" unit:"°C" min:"-20" max:"150" doc:"pack temperature after the ride"`
}

// Equipment is one thing that a class of the law is defined by.
type Equipment struct {
	What  string        `json:"what" doc:"what it is, as the law's class names it"`
	There quantity.Fact `json:"there" from:"seen" required:"false" words:"yes,no" doc:"it is fitted"`
}

// Altered is a place of frame or fork that somebody else than its maker welded, brazed or drilled.
type Altered struct {
	Where string `json:"where" required:"false" words:"fork,dropout,brake_tab,head,shell,main_tube,other" doc:"where it is"`
	How   string `json:"how" required:"false" words:"welded,brazed,drilled,rivet_nut" doc:"what was done"`
	Paper string `json:"paper" required:"false" words:"none,builder" doc:"paper for it: none, or a frame builder's for this frame"`
	// What that paper names.
	Number  string `json:"paper_number" required:"false" doc:"frame number on the builder's paper"`
	Builder string `json:"builder" required:"false" doc:"frame builder who signed it"`
	On      string `json:"paper_on" format:"date" required:"false" doc:"day of the paper, YYYY-MM-DD"`
}

// Grave reports whether the place is one whose failure throws a rider.
func (a *Altered) Grave() bool { return a.Where != "main_tube" && a.Where != "other" }

// Combiner joins packs so that the fuller one feeds first.
type Combiner struct {
	RatedA  quantity.Figure `json:"rated_a" from:"label,kit_sheet" required:"false" unit:"A" min:"0.1" max:"1000" doc:"combiner's rating"`
	Fixed   quantity.Fact   `json:"fixed" required:"false" words:"screwed,banded,tape,loose" doc:"how the combiner is fixed"`
	Opening quantity.Fact   `json:"opening" required:"false" words:"down,side,up" doc:"which way its openings point"`
	WarmC   quantity.Figure `json:"warm_c" touched:"combiner_changed" required:"false" unit:"°C" min:"-20" max:"250" doc:"its temperature after the ride"`
}

// Throttle is one of several.
type Throttle struct {
	Kind  quantity.Fact `json:"kind" required:"false" words:"thumb,twist" doc:"throttle"`
	Drive *int          `json:"drive" min:"1" max:"10" doc:"motor that it drives, the first is 1; none: all"`
}

// Charger is one of several.
type Charger struct {
	Number quantity.Fact   `json:"number" from:"label" class:"own" required:"false" doc:"number on the charger"`
	V      quantity.Figure `json:"v" from:"label,measured" touched:"charger_changed" required:"false" unit:"V" min:"1" max:"300" doc:"charger's final voltage"`
	A      quantity.Figure `json:"a" from:"label,measured" repeat:"sample" touched:"charger_changed" required:"false" unit:"A" min:"0.1" max:"100" doc:"charger's current"`
	Pack   *int            `json:"pack" min:"1" max:"10" doc:"pack that it serves, the first is 1; none: every pack"`
}

// Outlet feeds something beside the motor.
type Outlet struct {
	What   string          `json:"what" doc:"what it feeds"`
	At     string          `json:"at" words:"pack,controller" preset:"pack" doc:"what feeds it"`
	LoadA  quantity.Figure `json:"load_a" from:"label,measured" required:"false" unit:"A" min:"0" max:"100" doc:"current that it draws"`
	RatedA quantity.Figure `json:"rated_a" from:"label,kit_sheet" required:"false" unit:"A" min:"0" max:"100" doc:"what its fuse, or the controller's output, is made for"`
	Live   quantity.Fact   `json:"live" required:"false" words:"yes,no" doc:"live when the vehicle is off"`
}

// Setting is one of a controller or display.
type Setting struct {
	Name  string `json:"name" doc:"what is set"`
	Found string `json:"found" required:"false" doc:"as found"`
	Left  string `json:"left" required:"false" doc:"as left"`
	How   string `json:"how" required:"false" words:"display,cable,telephone" doc:"how it was read"`
}

// Apart is what shows that two systems are not joined electrically, every pack out.
type Apart struct {
	Kohm quantity.Figure `json:"kohm" required:"false" unit:"kΩ" min:"0" max:"1000000" doc:"positive of one system to positive of the other, packs out, the lower of both ways"`
	V    quantity.Figure `json:"v" required:"false" unit:"V" min:"0" max:"200" doc:"across the terminals of one system with the other's pack in, the highest found"`
}

// System is packs and motors that are joined electrically.
type System struct{ Packs, Drives []int }

// What shows that two systems are apart (house).
const (
	ApartKohm = 100
	ApartV    = 2
)

// Systems are the packs and motors by the system that each is said to belong to; nil, all one bank, unless each says it,
// there are two at least, and the measurements on the sheet bear out that they are not joined.
func (s *Sheet) Systems() []System {
	k, v := s.Apart.Kohm.Value, s.Apart.V.Value
	if !k.Ok || k.V < ApartKohm || !v.Ok || v.V >= ApartV {
		return nil
	}
	by := map[int]*System{}
	at := func(n *int) *System {
		if n == nil {
			return nil
		}
		if by[*n] == nil {
			by[*n] = &System{}
		}
		return by[*n]
	}
	for i := range s.Packs {
		x := at(s.Packs[i].System)
		if x == nil {
			return nil
		}
		x.Packs = append(x.Packs, i)
	}
	for i := range s.Drives {
		x := at(s.Drives[i].System)
		if x == nil {
			return nil
		}
		x.Drives = append(x.Drives, i)
	}
	var out []System
	for _, n := range slices.Sorted(maps.Keys(by)) {
		if len(by[n].Packs) == 0 || len(by[n].Drives) == 0 {
			return nil
		}
		out = append(out, *by[n])
	}
	if len(out) < 2 {
		return nil
	}
	return out
}

// SystemOfPack is the index in Systems of the one that a pack feeds; -1 where all is one bank.
func (s *Sheet) SystemOfPack(pack int) int {
	return slices.IndexFunc(s.Systems(), func(x System) bool { return slices.Contains(x.Packs, pack) })
}

// Lead is a power lead that is judged. Where its two ends are said, what flows in it
// follows from the circuit, and neither its name nor its pack is asked.
type Lead struct {
	Name string `json:"name" required:"false" doc:"what it joins"`
	Pack *int   `json:"pack" min:"0" max:"9" doc:"pack that it comes from, counted from 0; none for a lead behind the controller"`
	From string `json:"from" required:"false" words:"pack.0,pack.1,pack.2,pack.3,combiner,combiner.1,combiner.2,joint.0,joint.1,joint.2,joint.3,joint.4,joint.5,controller.0,controller.1,controller.2,controller.3,motor.0,motor.1,motor.2,motor.3,light.0,light.1,light.2,light.3" doc:"one end"`
	To   string `json:"to" required:"false" words:"pack.0,pack.1,pack.2,pack.3,combiner,combiner.1,combiner.2,joint.0,joint.1,joint.2,joint.3,joint.4,joint.5,controller.0,controller.1,controller.2,controller.3,motor.0,motor.1,motor.2,motor.3,light.0,light.1,light.2,light.3" doc:"the other end"`
	Plug string `json:"plug" required:"false" doc:"its plug, in words: where it is, what it looks like"`
	// What tells one kind of plug from another; its rating is a reading of the lead.
	Poles *int   `json:"poles" min:"1" max:"30" doc:"poles of its plug"`
	Keyed string `json:"keyed" required:"false" words:"keyed,mark,either_way" doc:"whether its plug goes in one way only: by its shape, by a mark alone, or either way round"`
	Seal  string `json:"seal" required:"false" words:"sealed,shrouded,bare" doc:"what keeps water out of its plug"`
}

// Ended reports whether an end of the lead is said.
func (l *Lead) Ended() bool { return l.From != "" || l.To != "" }

// Title names the lead by its ends, else as it was named.
func (l *Lead) Title() string {
	if l.From != "" && l.To != "" {
		return say.F("%s to %s", harness.Words(l.From), harness.Words(l.To))
	}
	return l.Name
}

// Light is a lamp that the vehicle's packs feed.
type Light struct {
	Place string          `json:"place" words:"front,rear,other" doc:"where it is"`
	W     quantity.Figure `json:"w" from:"label,kit_sheet,measured" required:"false" unit:"W" min:"0.05" max:"500" doc:"power it takes"`
	V     quantity.Figure `json:"v" from:"label,kit_sheet,measured" required:"false" unit:"V" min:"1" max:"150" doc:"supply voltage"`
}

// Makeshift is something temporary on the vehicle.
type Makeshift struct {
	What   string `json:"what" doc:"what the makeshift is"`
	Ends   string `json:"ends" required:"false" doc:"what will replace it"`
	Holds  string `json:"holds" required:"false" words:"brake,steering,wheel,axle,pack,power_lead,other" doc:"what it holds or stands in for"`
	Safety bool   `json:"safety" doc:"matters for safety"`
	Ended  bool   `json:"ended" doc:"replaced by now"`
}

// WordLimit is a limit that somebody lives by.
type WordLimit struct {
	Words  string        `json:"words" doc:"the limit as it was told"`
	HeldBy quantity.Fact `json:"held_by" required:"false" words:"word_only,stop,setting,label" doc:"what holds it"`
}

// Restriction is what holds the vehicle below what it could do: a loop wire, a setting, a
// plug. It counts only where it was proven.
type Restriction struct {
	Of    string        `json:"of" words:"power,speed,throttle" doc:"what it lowers"`
	Drive *int          `json:"drive" min:"0" max:"9" doc:"motor that it belongs to, counted from 0; none for all"`
	How   quantity.Fact `json:"how" required:"false" words:"loop_wire,setting,plug,code,device" doc:"how it limits"`
	Cycle quantity.Fact `json:"cycle" from:"measured,seen" required:"false" words:"holds,gone" doc:"measured again after switching off and on"`
	Kept  quantity.Fact `json:"kept" from:"seen" required:"false" words:"sealed,locked,open" doc:"can the rider lift it"`
	Fails quantity.Fact `json:"fails" from:"measured,seen" required:"false" words:"lower,stops,full" doc:"what happens if it comes off or is cut"`
}

// Cranks are the clearances around the bottom bracket.
type Cranks struct {
	ClearLeftMm  quantity.Figure `json:"clear_left_mm" required:"false" unit:"mm" min:"0" max:"100" doc:"clearance, crank arm to stay, left"`
	ClearRightMm quantity.Figure `json:"clear_right_mm" required:"false" unit:"mm" min:"0" max:"100" doc:"clearance, crank arm to stay, right"`
	Fixing       quantity.Fact   `json:"fixing" words:"square,cotter,spline" required:"false" doc:"how the cranks are fixed"`
	RingStayMm   quantity.Figure `json:"ring_stay_mm" required:"false" unit:"mm" min:"0" max:"100" doc:"clearance, chainring to stay, under a hard push"`
	CupThreadMm  quantity.Figure `json:"cup_thread_mm" required:"false" unit:"mm" min:"0" max:"40" doc:"thread still engaged by the cup over the sensor ring"`
}

// Adapter lengthens a torque tool.
type Adapter struct {
	ToolMm    float64 `json:"tool_mm" unit:"mm" min:"10" max:"3000" doc:"tool length, grip to square"`
	AdapterMm float64 `json:"adapter_mm" unit:"mm" min:"0" max:"1000" doc:"square to the bolt's centre"`
	AngleDeg  float64 `json:"angle_deg" unit:"°" min:"0" max:"180" preset:"0" doc:"adapter angle: 0 straight out, 90 at a right angle"`
}

// Bolt is a fastener on the vehicle's list.
type Bolt struct {
	Place    string          `json:"place" doc:"where it is"`
	Group    string          `json:"group" words:"rotor,caliper,controls,stem_bar,crank_pedal,mid,rack_battery,arm,brake,untouched" doc:"what it belongs to"`
	Thread   string          `json:"thread" required:"false" doc:"thread"`
	House    string          `json:"house" required:"false" words:"rotor_m5,caliper_m6,clamp_m5,small_clamp,stem_face_m5,stem_steerer_m6,crank_m8,pedal,rack_m5,boss_rivet_m5,battery_rail_m5,mid_plate_m8,mid_ring_m33,mid_outer_ring,headset,axle_m10,arm_m5,arm_m6,arm_m8,arm_band,reaction_arm_m6,reaction_clip,rim_brake_m6,pad_nut_m6,cable_clamp_m6,side_pull_m6,quill_m8,quill_m6,cassette_ring,cartridge_cup,external_cup,seat_clamp_m6,chainring_m8" doc:"house window, used where no kit sheet gives one"`
	Ring     int             `json:"ring" preset:"0" min:"0" max:"64" doc:"its number in a ring that is tightened crosswise; 0 for none"`
	RingName string          `json:"ring_name" required:"false" doc:"which ring, where there are several"`
	LowNm    quantity.Figure `json:"low_nm" from:"kit_sheet,label" required:"false" unit:"N·m" min:"0" max:"300" doc:"window, lower end"`
	HighNm   quantity.Figure `json:"high_nm" from:"kit_sheet,label" required:"false" unit:"N·m" min:"0" max:"300" doc:"window, upper end"`
	TorqueNm quantity.Figure `json:"torque_nm" required:"false" unit:"N·m" min:"0" max:"300" doc:"torque"`
	Locking  quantity.Fact   `json:"locking" required:"false" words:"none,thread_locker,nylon_nut,nylon_nut_turns_by_hand,lock_washer,second_nut" doc:"thread locking"`
	NoTool   string          `json:"no_tool" required:"false" doc:"why no tool reaches it"`
	// How the reading came about.
	Direction string        `json:"direction" words:"tighten,break_loose" preset:"tighten" doc:"how it was read: tightening, or breaking loose"`
	Slackened bool          `json:"slackened" doc:"slackened and inspected after it was past its window"`
	Adapter   *Adapter      `json:"adapter"`
	LeftHand  bool          `json:"left_hand" doc:"left-hand thread"`
	Witness   quantity.Fact `json:"witness" required:"false" words:"yes,no" doc:"witness mark set"`
	// What the joint is made of, where its window is to be computed.
	Grade        string          `json:"grade" required:"false" words:"8.8,10.9,12.9,A2-70,A2-50,A4-80" doc:"property class"`
	Into         string          `json:"into" required:"false" words:"steel_plain,steel_crmo,stainless_304,stainless_hard,al_6061_t6,al_7005,al_weld_zone,al_cast,magnesium,titanium_3_2_5" doc:"material of the internal thread"`
	EngagementMm quantity.Figure `json:"engagement_mm" from:"measured,kit_sheet" required:"false" unit:"mm" min:"0.5" max:"100" doc:"thread engaged"`
}

// Claims are what was promised.
type Claims struct {
	PowerW      quantity.Figure `json:"power_w" from:"stated,label,kit_sheet" required:"false" unit:"W" min:"1" max:"20000" doc:"claimed power"`
	TopSpeedKmh quantity.Figure `json:"top_speed_kmh" from:"stated,label,kit_sheet" required:"false" unit:"km/h" min:"1" max:"120" doc:"claimed top speed"`
	RangeKm     quantity.Figure `json:"range_km" from:"stated,label,kit_sheet" required:"false" unit:"km" min:"1" max:"500" doc:"claimed range"`
	Class       quantity.Fact   `json:"class" required:"false" doc:"claimed class"`
	RideWhy     quantity.Fact   `json:"ride_why" from:"stated" required:"false" doc:"why the recorded ride was slower or faster than the claim"`
}

// Use is where and how it will be ridden.
type Use struct {
	Place      string          `json:"place" required:"false" doc:"rule pack of the place"`
	RiderKg    quantity.Figure `json:"rider_kg" from:"stated,measured" required:"false" unit:"kg" min:"20" max:"250" doc:"rider, dressed"`
	LoadKg     quantity.Figure `json:"load_kg" from:"stated,measured" required:"false" unit:"kg" min:"0" max:"400" doc:"load beside the rider"`
	TotalKg    quantity.Figure `json:"total_kg" required:"false" unit:"kg" min:"10" max:"900" doc:"vehicle, rider and load, weighed"`
	AllowedKg  quantity.Figure `json:"allowed_kg" from:"label,kit_sheet" required:"false" unit:"kg" min:"10" max:"900" doc:"gross mass that the frame or the kit allows"`
	Supplied   string          `json:"supplied" required:"false" words:"own,lent,sold" doc:"built by its rider for themselves, lent, or sold (which one converted for somebody else is too)"`
	Fitted     string          `json:"fitted" format:"date" required:"false" doc:"day that motor or controller was fitted, YYYY-MM-DD"`
	Intended   string          `json:"intended" required:"false" doc:"class of the place that it is to be in"`
	Unmodified bool            `json:"unmodified" doc:"drive and controller are as their maker built them, by a photo of the serial plate"`
	FirstUse   string          `json:"first_use" format:"date" required:"false" doc:"first use in this electric form, by paper, YYYY-MM-DD"`
	Private    bool            `json:"private_ground" doc:"ridden on private ground only"`
	Rented     bool            `json:"rented" doc:"lent out or hired"`
	Rain       bool            `json:"rain" doc:"ridden in rain"`
	Hills      bool            `json:"hills" doc:"ridden in hills"`
}

// Geometry draws the vehicle to scale; what is absent takes a usual figure.
type Geometry struct {
	WheelbaseMm quantity.Opt `json:"wheelbase_mm" unit:"mm" min:"600" max:"2600" doc:"wheelbase"`
	TrackMm     quantity.Opt `json:"track_mm" unit:"mm" min:"300" max:"1200" doc:"track, between the two wheels of a trike"`
	HeadDeg     quantity.Opt `json:"head_deg" unit:"°" min:"50" max:"90" doc:"head angle"`
	SeatDeg     quantity.Opt `json:"seat_deg" unit:"°" min:"40" max:"90" doc:"seat tube angle"`
	StayMm      quantity.Opt `json:"stay_mm" unit:"mm" min:"300" max:"1200" doc:"chainstay length"`
	DropMm      quantity.Opt `json:"drop_mm" unit:"mm" min:"-150" max:"150" doc:"drop of the bottom bracket below the axles"`
	ForkMm      quantity.Opt `json:"fork_mm" unit:"mm" min:"200" max:"700" doc:"fork length, axle to crown"`
	OffsetMm    quantity.Opt `json:"offset_mm" unit:"mm" min:"0" max:"120" doc:"fork offset"`
	SeatTubeMm  quantity.Opt `json:"seat_tube_mm" unit:"mm" min:"200" max:"800" doc:"seat tube length"`
	HeadTubeMm  quantity.Opt `json:"head_tube_mm" unit:"mm" min:"60" max:"400" doc:"head tube length"`
	SeatMm      quantity.Opt `json:"seat_mm" unit:"mm" min:"100" max:"900" doc:"height of the recumbent seat"`
	BoomMm      quantity.Opt `json:"boom_mm" unit:"mm" min:"-600" max:"900" doc:"cranks ahead of the front axle"`
}

// CargoBox is a box or basket, for the drawing.
type CargoBox struct {
	End      string       `json:"end" words:"front,rear" preset:"rear" doc:"over which axle"`
	LengthMm quantity.Opt `json:"length_mm" unit:"mm" min:"100" max:"2000" doc:"length"`
	WidthMm  quantity.Opt `json:"width_mm" unit:"mm" min:"100" max:"1200" doc:"width"`
	HeightMm quantity.Opt `json:"height_mm" unit:"mm" min:"50" max:"1500" doc:"height"`
	FloorMm  quantity.Opt `json:"floor_mm" unit:"mm" min:"50" max:"1500" doc:"height of its floor above the ground"`
}

// Wheel is one wheel, or the pair of a trike.
type Wheel struct {
	BsdMm          quantity.Figure `json:"bsd_mm" from:"label,measured" required:"false" unit:"mm" min:"200" max:"700" doc:"bead seat diameter of the rim"`
	TyreMm         quantity.Figure `json:"tyre_mm" from:"label,measured" required:"false" unit:"mm" min:"18" max:"130" doc:"tyre width"`
	Brake          quantity.Fact   `json:"brake" required:"false" words:"disc,rim,drum,roller,band,coaster,none" doc:"brake on this wheel"`
	RotorMm        quantity.Figure `json:"rotor_mm" from:"label,measured,kit_sheet" required:"false" unit:"mm" min:"120" max:"230" doc:"disc diameter"`
	RotorMount     quantity.Fact   `json:"rotor_mount" required:"false" words:"six_screws,spline" doc:"how the disc is fixed"`
	RimInnerMm     quantity.Figure `json:"rim_inner_mm" from:"measured,label" required:"false" unit:"mm" min:"10" max:"100" doc:"rim, inner width"`
	TyreBsdMm      quantity.Figure `json:"tyre_bsd_mm" from:"label" required:"false" unit:"mm" min:"200" max:"700" doc:"bead seat diameter marked on the tyre"`
	PressureBar    quantity.Figure `json:"pressure_bar" required:"false" unit:"bar" min:"0.2" max:"12" doc:"tyre pressure"`
	PressureMinBar quantity.Figure `json:"pressure_min_bar" from:"label" required:"false" unit:"bar" min:"0.2" max:"12" doc:"lowest pressure on the sidewall"`
	PressureMaxBar quantity.Figure `json:"pressure_max_bar" from:"label" required:"false" unit:"bar" min:"0.2" max:"12" doc:"highest pressure on the sidewall"`
	MarkKg         quantity.Figure `json:"mark_kg" from:"label" required:"false" unit:"kg" min:"10" max:"400" doc:"load rating of one tyre"`
	RimLeftMm      quantity.Figure `json:"rim_left_mm" touched:"wheel_out,fork_out" required:"false" unit:"mm" min:"0" max:"150" doc:"rim to stay or fork leg, left"`
	RimRightMm     quantity.Figure `json:"rim_right_mm" touched:"wheel_out,fork_out" required:"false" unit:"mm" min:"0" max:"150" doc:"rim to stay or fork leg, right"`
	OnItKg         quantity.Figure `json:"on_it_kg" required:"false" unit:"kg" min:"1" max:"400" doc:"load on one tyre, laden as it will be used"`
}

// Fork is the front fork.
type Fork struct {
	SuspensionCast *bool `json:"suspension_cast" doc:"dropouts cast into a suspension fork"`
}

// Drive is one motor with its controller.
type Drive struct {
	Kind           string          `json:"kind" words:"front_hub,rear_hub,mid"`
	Number         quantity.Fact   `json:"number" class:"own" from:"label" required:"false" doc:"number on the motor"`
	Kit            string          `json:"kit" required:"false" doc:"kit as its sheet names it"`
	System         *int            `json:"system" min:"1" max:"4" doc:"system that it belongs to, counted from 1; none where all packs feed all motors"`
	Differs        bool            `json:"differs" doc:"this motor differs from its kit sheet, by a photo: what the sheet alone says of it is then guessed"`
	Direct         bool            `json:"direct" doc:"direct drive, without a clutch"`
	Regen          quantity.Fact   `json:"regen" required:"false" words:"yes,no" doc:"the motor also brakes"`
	LabelW         quantity.Figure `json:"label_w" class:"design" from:"label" required:"false" unit:"W" min:"1" max:"20000" doc:"rated power on the label"`
	RatingW        quantity.Figure `json:"rating_w" class:"design" from:"label" touched:"controller_changed" required:"false" unit:"W" min:"1" max:"20000" doc:"maker's continuous rating, from the maker's own sheet"`
	RatingA        quantity.Figure `json:"rating_a" class:"design" from:"label" touched:"controller_changed" required:"false" unit:"A" min:"0.1" max:"500" doc:"controller's limit that the maker rates it with"`
	RatingMotor    string          `json:"rating_motor" required:"false" doc:"motor type and winding, as the maker's sheet names them"`
	RatingLab      bool            `json:"rating_laboratory" doc:"a laboratory rated it"`
	DeclaredPeakNm quantity.Figure `json:"declared_peak_nm" class:"design" from:"kit_sheet,label" required:"false" unit:"N·m" min:"0.1" max:"1000" doc:"declared peak torque at the wheel"`
	SpinRpm        quantity.Figure `json:"spin_rpm" from:"measured" touched:"controller_changed" required:"false" unit:"1/min" min:"1" max:"5000" doc:"wheel speed on the stand, full throttle"`
	SpinV          quantity.Figure `json:"spin_v" from:"measured" repeat:"same" touched:"controller_changed" required:"false" unit:"V" min:"1" max:"200" doc:"battery voltage during that spin"`
	PhaseLimitA    quantity.Figure `json:"phase_limit_a" from:"kit_sheet,label,measured" required:"false" unit:"A" min:"0.1" max:"1000" doc:"phase current limit, peak"`
	BatteryLimitA  quantity.Figure `json:"battery_limit_a" from:"kit_sheet,label,measured" required:"false" unit:"A" min:"0.1" max:"500" doc:"battery current limit of the controller"`
	SystemV        quantity.Figure `json:"system_v" class:"design" from:"kit_sheet,label" required:"false" unit:"V" min:"6" max:"150" doc:"nominal system voltage"`
	LimiterW       quantity.Figure `json:"limiter_w" from:"measured" required:"false" unit:"W" min:"1" max:"50000" doc:"lower power setting, proven by measurement"`
	RegenLimitA    quantity.Figure `json:"regen_limit_a" from:"kit_sheet,label,measured,recorded" touched:"controller_changed,setting_changed" required:"false" unit:"A" min:"0" max:"200" doc:"greatest current fed back into the pack on the road"`
	RotorMount     quantity.Fact   `json:"rotor_mount" required:"false" words:"six_screws,spline,none" doc:"disc mount of the motor's hub"`
	DragFinger     quantity.Fact   `json:"drag_finger" required:"false" words:"free,even_drag,uneven_drag,grinds" doc:"spun by hand, nuts finger-tight"`
	DragTorqued    quantity.Fact   `json:"drag_torqued" required:"false" words:"free,even_drag,uneven_drag,grinds" doc:"spun by hand, nuts torqued"`
	AxleHeld       quantity.Fact   `json:"axle_held" required:"false" words:"both_ends,one_end" doc:"hub axle held at both ends, or at one end only (stub axle)"`
	Axle           *Axle           `json:"axle"`
}

// Hub reports whether the motor sits in a hub.
func (d *Drive) Hub() bool { return d.Kind != "mid" }

// Position is front or rear.
func (d *Drive) Position() string {
	if d.Kind == "front_hub" {
		return "front"
	}
	return "rear"
}

// Axle is a hub motor's axle in its dropouts.
type Axle struct {
	DMm                quantity.Figure `json:"d_mm" from:"measured,kit_sheet" touched:"controller_changed" required:"false" unit:"mm" min:"4" max:"30" doc:"axle diameter over the thread"`
	FlatMm             quantity.Figure `json:"flat_mm" from:"measured,kit_sheet" touched:"controller_changed" required:"false" unit:"mm" min:"2" max:"30" doc:"axle width across its flats"`
	NutHeightMm        quantity.Figure `json:"nut_height_mm" from:"measured,kit_sheet" touched:"controller_changed" required:"false" unit:"mm" min:"1" max:"40" doc:"height of the axle nut"`
	PitchMm            quantity.Figure `json:"pitch_mm" from:"measured,kit_sheet" touched:"controller_changed" required:"false" unit:"mm" min:"0.2" max:"4" doc:"thread pitch"`
	FrameGapMm         quantity.Figure `json:"frame_gap_mm" touched:"fork_out,wheel_out" required:"false" unit:"mm" min:"20" max:"400" doc:"gap between the dropouts' inner faces"`
	HubWidthMm         quantity.Figure `json:"hub_width_mm" class:"design" from:"measured,kit_sheet" touched:"controller_changed" required:"false" unit:"mm" min:"20" max:"400" doc:"hub width, shoulder to shoulder"`
	AxleLeftMm         quantity.Figure `json:"axle_left_mm" class:"design" from:"measured,kit_sheet" touched:"controller_changed" required:"false" unit:"mm" min:"1" max:"200" doc:"hub shoulder to axle end, left"`
	AxleRightMm        quantity.Figure `json:"axle_right_mm" class:"design" from:"measured,kit_sheet" touched:"controller_changed" required:"false" unit:"mm" min:"1" max:"200" doc:"hub shoulder to axle end, right"`
	ThreadStartLeftMm  quantity.Figure `json:"thread_start_left_mm" class:"design" from:"measured,kit_sheet" touched:"controller_changed" required:"false" unit:"mm" min:"0" max:"200" doc:"hub shoulder to first full thread, left"`
	ThreadStartRightMm quantity.Figure `json:"thread_start_right_mm" class:"design" from:"measured,kit_sheet" touched:"controller_changed" required:"false" unit:"mm" min:"0" max:"200" doc:"hub shoulder to first full thread, right"`
	NutLowNm           quantity.Figure `json:"nut_low_nm" from:"kit_sheet,label" required:"false" unit:"N·m" min:"0" max:"200" doc:"axle nut's window on the kit sheet, lower end"`
	NutHighNm          quantity.Figure `json:"nut_high_nm" from:"kit_sheet,label" required:"false" unit:"N·m" min:"0" max:"200" doc:"axle nut's window on the kit sheet, upper end"`
	FlatEndLeftMm      quantity.Figure `json:"flat_end_left_mm" class:"design" from:"measured,kit_sheet" touched:"controller_changed" required:"false" unit:"mm" min:"0" max:"200" doc:"hub shoulder to the flats' end, left"`
	FlatEndRightMm     quantity.Figure `json:"flat_end_right_mm" class:"design" from:"measured,kit_sheet" touched:"controller_changed" required:"false" unit:"mm" min:"0" max:"200" doc:"hub shoulder to the flats' end, right"`
	Cable              quantity.Fact   `json:"cable" words:"left,right,none" required:"false" doc:"axle end that the cable comes through"`
	StubNutNm          quantity.Figure `json:"stub_nut_nm" from:"measured" touched:"wheel_out,axle_nut_loosened" required:"false" unit:"N·m" min:"0" max:"200" doc:"torque of the nut on a stub axle"`
	Left               AxleSide        `json:"left" preset:"{}"`
	Right              AxleSide        `json:"right" preset:"{}"`
	Parts              []Part          `json:"parts" doc:"parts, from the middle outwards"`
}

// AxleSide is one dropout with what sits in it.
type AxleSide struct {
	Material       quantity.Fact   `json:"material" class:"design" required:"false" words:"steel_plain,steel_crmo,stainless_304,stainless_hard,al_6061_t6,al_7005,al_weld_zone,al_cast,magnesium,titanium_3_2_5,carbon" doc:"dropout material"`
	ThicknessMm    quantity.Figure `json:"thickness_mm" from:"measured" touched:"fork_out" required:"false" unit:"mm" min:"0.5" max:"40" doc:"dropout thickness at the axle"`
	Closed         *bool           `json:"closed" doc:"slot is closed all round"`
	SlotMm         quantity.Figure `json:"slot_mm" from:"measured" touched:"wheel_out" required:"false" unit:"mm" min:"1" max:"40" doc:"slot width"`
	TineMm         quantity.Figure `json:"tine_mm" from:"measured" touched:"fork_out" required:"false" unit:"mm" min:"0.1" max:"60" doc:"narrowest metal beside the slot"`
	RootMm         quantity.Figure `json:"root_mm" from:"measured" touched:"fork_out" required:"false" unit:"mm" min:"0.1" max:"60" doc:"axle centre to the slot's closed end"`
	NutNm          quantity.Figure `json:"nut_nm" from:"measured" touched:"wheel_out,axle_nut_loosened,arm_changed" required:"false" unit:"N·m" min:"0" max:"200" doc:"axle nut torque"`
	NutNoTool      string          `json:"nut_no_tool" required:"false" doc:"why no tool reaches the axle nut"`
	WasherOdMm     quantity.Figure `json:"washer_od_mm" from:"measured,kit_sheet" touched:"wheel_out" required:"false" unit:"mm" min:"1" max:"100" doc:"outer diameter of the clamping face"`
	TabWasher      *TabWasher      `json:"tab_washer"`
	TabFitted      quantity.Fact   `json:"tab_fitted" required:"false" words:"fitted,not_here" doc:"tab washer that the kit comes with"`
	Arm            *Arm            `json:"arm"`
	ThroughAxleCut bool            `json:"through_axle_cut" doc:"a closed through-axle dropout was cut open"`
	Reworked       bool            `json:"reworked_unsigned" doc:"filed, welded or cracked without an engineer's sign-off"`
	SeatObstructed bool            `json:"seat_obstructed" doc:"a lip or recess keeps the nut from seating flat"`
}

// TabWasher is a washer whose tab sits in the slot.
type TabWasher struct {
	Material    quantity.Fact   `json:"material" class:"design" required:"false" words:"steel_plain,steel_crmo,stainless_304,stainless_hard,al_6061_t6,al_7005,al_weld_zone,al_cast,magnesium,titanium_3_2_5,carbon" doc:"tab washer material"`
	ThicknessMm quantity.Figure `json:"thickness_mm" from:"measured,kit_sheet" touched:"wheel_out" required:"false" unit:"mm" min:"0.1" max:"10" doc:"tab washer thickness"`
	TabMm       quantity.Figure `json:"tab_mm" from:"measured,kit_sheet" touched:"wheel_out" required:"false" unit:"mm" min:"0.1" max:"30" doc:"tab width"`
	TabRadiusMm quantity.Figure `json:"tab_radius_mm" from:"measured,kit_sheet" touched:"wheel_out" required:"false" unit:"mm" min:"0.1" max:"40" doc:"axle centre to the tab"`
}

// Arm is a torque arm.
type Arm struct {
	Material    quantity.Fact   `json:"material" class:"design" required:"false" words:"steel_plain,steel_crmo,stainless_304,stainless_hard,al_6061_t6,al_7005,al_weld_zone,al_cast,magnesium,titanium_3_2_5,carbon" doc:"arm material"`
	ThicknessMm quantity.Figure `json:"thickness_mm" from:"measured,kit_sheet" touched:"arm_changed" required:"false" unit:"mm" min:"0.1" max:"30" doc:"arm thickness"`
	HoleMm      quantity.Figure `json:"hole_mm" from:"measured" touched:"arm_changed" required:"false" unit:"mm" min:"1" max:"40" doc:"arm's hole across its flats"`
	Open        *bool           `json:"open" doc:"hole open to one side"`
	TineMm      quantity.Figure `json:"tine_mm" from:"measured" touched:"arm_changed" required:"false" unit:"mm" min:"0.1" max:"60" doc:"narrowest metal beside an open hole"`
	RootMm      quantity.Figure `json:"root_mm" from:"measured" touched:"arm_changed" required:"false" unit:"mm" min:"0.1" max:"60" doc:"axle centre to the closed end of an open hole"`
	Seat        quantity.Fact   `json:"seat" required:"false" words:"eyelet,boss,through" doc:"what the anchor bolt sits in"`
	LengthMm    quantity.Figure `json:"length_mm" class:"design" from:"measured" touched:"arm_changed" required:"false" unit:"mm" min:"5" max:"600" doc:"axle centre to anchor"`
	Anchor      quantity.Fact   `json:"anchor" required:"false" words:"bolt,band,block,tie" doc:"what holds the arm's end"`
	Bolt        string          `json:"bolt" required:"false" doc:"thread of the anchor bolt"`
	Grade       string          `json:"grade" required:"false" words:"8.8,10.9,12.9,A2-70,A2-50,A4-80" doc:"property class of the anchor bolt"`
	BandMm      quantity.Figure `json:"band_mm" from:"measured" touched:"arm_changed" required:"false" unit:"mm" min:"1" max:"50" doc:"width of a steel band"`
	Count       int             `json:"count" preset:"1" min:"0" max:"20" doc:"number of bolts or bands"`
	CapacityN   quantity.Figure `json:"capacity_n" from:"kit_sheet,label" required:"false" unit:"N" min:"0" max:"100000" doc:"load that a block can carry"`
}

// Part is one piece in the stack on the axle.
type Part struct {
	Side        string          `json:"side" words:"left,right"`
	Place       string          `json:"place" words:"inner,outer"`
	Kind        string          `json:"kind" words:"spacer,plain_washer,tab_washer,lock_washer,torque_arm,rotor_spacer,other"`
	ThicknessMm quantity.Figure `json:"thickness_mm" from:"measured,kit_sheet" touched:"wheel_out" unit:"mm" min:"0" max:"60" doc:"thickness" required:"false"`
	TolMm       float64         `json:"tol_mm" unit:"mm" min:"0" max:"10" preset:"0.1"`
}

// Pack is one battery.
type Pack struct {
	Number quantity.Fact   `json:"number" class:"own" from:"label" required:"false" doc:"number on the pack"`
	Key    quantity.Fact   `json:"key" class:"own" from:"label,seen" required:"false" doc:"key number"`
	Place  string          `json:"place" words:"down_tube,seat_tube,under_seat,rack,box,basket,handlebar" doc:"where it is mounted"`
	Series quantity.Figure `json:"series" whole:"true" from:"kit_sheet,label,measured" required:"false" min:"1" max:"40" doc:"cells in series"`
	Ah     quantity.Figure `json:"ah" from:"kit_sheet,label" required:"false" unit:"A·h" min:"0.5" max:"200" doc:"capacity"`
	MassKg quantity.Figure `json:"mass_kg" class:"design" touched:"pack_changed" required:"false" unit:"kg" min:"0.2" max:"60" doc:"mass"`

	Certificate quantity.Fact `json:"certificate" class:"own" required:"false" words:"en_50604_1,en_62133_2,ul_2271" doc:"standard that the whole pack is certified to"`

	System *int `json:"system" min:"1" max:"4" doc:"system that it feeds, counted from 1; none where all packs feed all motors"`

	TakenOut quantity.Fact `json:"taken_out" required:"false" words:"yes,no" doc:"can be taken out for charging"`

	RestV      quantity.Figure `json:"rest_v" touched:"pack_changed" required:"false" unit:"V" min:"1" max:"300" doc:"rest voltage"`
	Ohm        quantity.Figure `json:"ohm" touched:"pack_changed" required:"false" unit:"Ω" min:"0.001" max:"10" doc:"internal resistance"`
	DischargeA quantity.Figure `json:"discharge_a" from:"kit_sheet,label" required:"false" unit:"A" min:"0.1" max:"1000" doc:"discharge limit"`
	ChargeA    quantity.Figure `json:"charge_a" from:"kit_sheet,label" required:"false" unit:"A" min:"0" max:"500" doc:"charge limit"`
}

// Levers are the two brake levers.
type Levers struct {
	Left  Lever `json:"left" preset:"{}"`
	Right Lever `json:"right" preset:"{}"`
}

// Both yields the two brake levers, left first.
func (l *Levers) Both() iter.Seq2[string, *Lever] {
	return func(yield func(string, *Lever) bool) {
		_ = yield("left", &l.Left) && yield("right", &l.Right)
	}
}

// Fitted yields the brake levers that are not said to be missing, left first.
func (l *Levers) Fitted() iter.Seq2[string, *Lever] {
	return func(yield func(string, *Lever) bool) {
		if !l.Left.Fitted.Is("no") && !yield("left", &l.Left) {
			return
		}
		if !l.Right.Fitted.Is("no") {
			yield("right", &l.Right)
		}
	}
}

// Pair are the two wheels of a trike that stand side by side.
type Pair struct {
	Driven quantity.Fact `json:"driven" required:"false" words:"both,left,right,none" doc:"which wheel of the pair is driven"`
	Braked quantity.Fact `json:"braked" required:"false" words:"both,left,right,none" doc:"which wheel of the pair is braked"`
}

// Lever is one brake lever.
type Lever struct {
	Fitted quantity.Fact `json:"fitted" required:"false" words:"yes,no" doc:"lever fitted"`
	Switch quantity.Fact `json:"switch" required:"false" words:"none,micro,reed,hydraulic" doc:"cutoff switch in it"`
	Works  quantity.Fact `json:"works" required:"false" words:"front,rear,both,pair_left,pair_right,parking,none" doc:"brake that it works"`
	// Of a switch or magnet that was added to the lever.
	HeldBy quantity.Fact   `json:"held_by" required:"false" words:"built_in,clamp,adhesive,tape,tie" doc:"what holds the added switch or magnet on the lever"`
	HeldN  quantity.Figure `json:"held_n" required:"false" unit:"N" min:"0" max:"300" doc:"pull on the added switch or magnet at which nothing moved"`
	BiteMm quantity.Figure `json:"bite_mm" required:"false" unit:"mm" min:"0" max:"100" doc:"lever travel at which the pads bite, by a feeler pull"`
}

// AddedSwitch reports whether the lever's switch was added to it: a magnet or a sensor, not a switch in its body.
func (l *Lever) AddedSwitch() bool {
	return (l.Switch.Is("reed") || l.Switch.Is("hydraulic")) && !(l.HeldBy.Is("built_in") && l.HeldBy.Known())
}

func init() { schema.Register(reflect.TypeFor[Sheet]()) }

// Fields describes the sheet for forms and documents.
func Fields() []schema.Field { return schema.Describe(reflect.TypeFor[Sheet]()) }

// Read fills a sheet from a parsed document. The error joins a FieldError for
// each field that is wrong.
func Read(tree any) (*Sheet, error) {
	var s Sheet
	if err := schema.Decode(tree, &s); err != nil {
		return nil, err
	}
	if s.Format != Format {
		return nil, quantity.Invalid("format", say.F("is %s", s.Format), say.F("this edition reads %s", Format))
	}
	return &s, nil
}

// Wheels gives the front and the rear wheel by name.
func (s *Sheet) Wheels() iter.Seq2[string, *Wheel] {
	return func(yield func(string, *Wheel) bool) {
		_ = yield("front", &s.Front) && yield("rear", &s.Rear)
	}
}

// Hubs lists the indices of the hub drives whose axle stands in two dropouts.
func (s *Sheet) Hubs() []int { return s.hubs(false) }

// Stubs lists the indices of the hub drives whose axle is held at one end only.
func (s *Sheet) Stubs() []int { return s.hubs(true) }

func (s *Sheet) hubs(stub bool) []int {
	var out []int
	for i := range s.Drives {
		if d := &s.Drives[i]; d.Hub() && (s.InPair(d) && d.AxleHeld.Is("one_end")) == stub {
			out = append(out, i)
		}
	}
	return out
}

// PairEnd is the end at which a trike has two wheels; empty for a bicycle.
func (s *Sheet) PairEnd() string {
	return map[string]string{"delta": "rear", "tadpole": "front"}[s.Kind]
}

// InPair reports whether a motor sits in a wheel of a trike's pair: its axle may be held at one end only.
func (s *Sheet) InPair(d *Drive) bool { return d.Hub() && s.PairEnd() == d.Position() }

// Works reports whether a lever works a brake at that end; of a pair braked wheel by wheel, the one on a side.
func (s *Sheet) Works(l *Lever, end, side string) bool {
	return l.Works.Is(end) || l.Works.Is("both") || s.PairEnd() == end && l.Works.Is("pair_"+side)
}

// Trike reports whether it has three wheels.
func (s *Sheet) Trike() bool { return s.Kind != "bicycle" }
